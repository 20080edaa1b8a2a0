// What a check misses: every file is checked with one wrong byte at places spread evenly over it, and with 4
// KiB of another file at such places. Counted are checks that pass all the same, by format and by the
// strength that the file has whole.
//
// usage: mutations [--places N] [--table] [--misses] [FILE-or-FOLDER...]
//
// Without files: those of the tests, in ten editions each. Prints CSV, or with --table the table of
// docs/formats.md.

#include <fmt/format.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <cstdio>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <map>
#include <random>
#include <string>
#include <vector>

#include "content/format.hpp"
#include "content/formats.hpp"
#include "support/format_cases.hpp"

namespace {

using namespace undershelf;
namespace fs = std::filesystem;

constexpr std::size_t block = 4096;
constexpr int editions = 10;

bool say_places = false;  ///< at which a wrong byte passes

/// What came of one file.
struct Tally {
    std::uint64_t files = 0, bytes = 0, bytes_passed = 0, blocks = 0, blocks_passed = 0;
    void add(const Tally& t) {
        files += t.files, bytes += t.bytes, bytes_passed += t.bytes_passed;
        blocks += t.blocks, blocks_passed += t.blocks_passed;
    }
};
using Key = std::pair<std::string, Strength>;

struct Sample {
    std::string name;
    ByteVector bytes;
};

/// A content that is looked at with a part of it replaced.
class Changed final : public Content {
  public:
    Changed(const ByteVector& bytes, std::size_t at, Bytes patch) : bytes_(bytes), at_(at), patch_(patch) {}
    std::uint64_t size() const override { return bytes_.size(); }
    std::size_t read(std::uint64_t offset, MutableBytes out) override {
        if (offset >= bytes_.size()) return 0;
        const auto from = static_cast<std::size_t>(offset), n = std::min(out.size(), bytes_.size() - from);
        std::copy_n(bytes_.begin() + static_cast<std::ptrdiff_t>(from), n, out.begin());
        for (auto i = std::max(from, at_); i < std::min(from + n, at_ + patch_.size()); ++i)
            out[i - from] = patch_[i - at_];
        return n;
    }

  private:
    const ByteVector& bytes_;
    std::size_t at_;
    Bytes patch_;
};

/// Does it still look like the whole file, checked as strongly?
bool passes(const ByteVector& bytes, std::size_t at, Bytes patch, const Check& whole) {
    Changed content(bytes, at, patch);
    const auto check = check_content(content, {.title = false});
    return check && check->complete && check->format == whole.format && check->holds_to == whole.holds_to &&
           check->strength >= whole.strength;
}

Tally measure(const std::vector<Sample>& samples, std::size_t index, const Check& whole, std::size_t places) {
    Tally out;
    out.files = 1;
    const auto& bytes = samples[index].bytes;
    const auto size = static_cast<std::size_t>(whole.holds_to);
    std::mt19937 random(static_cast<unsigned>(index));
    for (std::size_t i = 0; i < std::min(places, size); ++i) {
        const auto at =
            size * i / std::min(places, size) + random() % std::max<std::size_t>(size / places, 1);
        if (at >= size) continue;
        const std::uint8_t wrong[] = {static_cast<std::uint8_t>(bytes[at] ^ (1 + random() % 255))};
        ++out.bytes;
        const bool passed = passes(bytes, at, wrong, whole);
        if (passed && say_places) fmt::print(stderr, "{}: byte {}\n", samples[index].name, at);
        out.bytes_passed += passed;
    }
    const auto blocks = size / block;
    for (std::size_t i = 0; i < std::min(places / 4, blocks); ++i) {
        const auto at = blocks * i / std::min(places / 4, blocks) * block;
        const auto& other = samples[(index + 1 + random() % (samples.size() - 1)) % samples.size()].bytes;
        if (other.size() < block) continue;
        const auto from = random() % (other.size() / block) * block;
        const auto patch = Bytes(other).subspan(from, block);
        if (std::equal(patch.begin(), patch.end(), bytes.begin() + static_cast<std::ptrdiff_t>(at))) continue;
        ++out.blocks;
        out.blocks_passed += passes(bytes, at, patch, whole);
    }
    return out;
}

std::vector<Sample> read_files(const std::vector<std::string>& paths) {
    std::vector<Sample> out;
    const auto read = [&](const fs::path& path) {
        std::ifstream in(path, std::ios::binary);
        out.push_back({path.filename().string(), {std::istreambuf_iterator<char>(in), {}}});
    };
    for (const auto& path : paths) {
        if (!fs::is_directory(path)) {
            read(path);
            continue;
        }
        for (const auto& file : fs::recursive_directory_iterator(path)) {
            if (file.is_regular_file()) read(file.path());
        }
    }
    return out;
}

std::vector<Sample> make_files() {
    std::vector<Sample> out;
    for (int i = 0; i < editions; ++i) {
        const test::Edition edition(i);
        for (const auto& c : test::format_cases()) out.push_back({c.format, c.make()});
    }
    return out;
}

std::string share(std::uint64_t passed, std::uint64_t all) {
    return all ? fmt::format("{:.2f}", 100.0 * static_cast<double>(passed) / static_cast<double>(all)) : "";
}

}  // namespace

int main(int argc, char** argv) {
    std::size_t places = 200;
    bool table = false;
    std::vector<std::string> paths;
    for (int i = 1; i < argc; ++i) {
        const std::string argument = argv[i];
        if (argument == "--places" && i + 1 < argc) {
            places = std::stoul(argv[++i]);
        } else if (argument == "--misses") {
            say_places = true;
        } else if (argument == "--table") {
            table = true;
        } else {
            paths.push_back(argument);
        }
    }
    const auto samples = paths.empty() ? make_files() : read_files(paths);
    std::vector<std::pair<Key, Tally>> results(samples.size());
    tbb::parallel_for(std::size_t{0}, samples.size(), [&](std::size_t i) {
        Changed content(samples[i].bytes, 0, {});
        const auto check = check_content(content, {.title = false});
        if (!check || !check->complete || check->strength < Strength::fair) return;
        results[i] = {{std::string(check->format), check->strength}, measure(samples, i, *check, places)};
        if (!paths.empty() && !table && !say_places) {
            const auto& t = results[i].second;
            fmt::print(stderr, "{},{},{},{},{},{},{}\n", samples[i].name, check->format,
                       word(check->strength), t.bytes, t.bytes_passed, t.blocks, t.blocks_passed);
        }
    });
    std::map<Key, Tally> all;
    for (const auto& [key, tally] : results) {
        if (tally.files) all[key].add(tally);
    }
    std::fputs(
        table
            ? "| format | strength | files | one wrong byte passes, % | 4 KiB of another file pass, % |\n"
              "|---|---|---|---|---|\n"
            : "format,strength,files,bytes,bytes_passed,bytes_percent,blocks,blocks_passed,blocks_percent\n",
        stdout);
    for (const auto& [key, t] : all) {
        if (table)
            fmt::print("| {} | {} | {} | {} | {} |\n", key.first, word(key.second), t.files,
                       share(t.bytes_passed, t.bytes), share(t.blocks_passed, t.blocks));
        else
            fmt::print("{},{},{},{},{},{},{},{},{}\n", key.first, word(key.second), t.files, t.bytes,
                       t.bytes_passed, share(t.bytes_passed, t.bytes), t.blocks, t.blocks_passed,
                       share(t.blocks_passed, t.blocks));
    }
}
