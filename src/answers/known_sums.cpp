#include "answers/known_sums.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <fstream>

#include "base/error.hpp"
#include "base/text.hpp"

namespace undershelf {

namespace {
constexpr std::size_t digits = 64;
}

KnownSums read_known_sums(std::istream& in, const std::string& file, const std::string& option) {
    KnownSums out{file, {}};
    std::uint64_t number = 0;
    for (std::string line; std::getline(in, line);) {
        if (++number == 1 && line.starts_with("\xef\xbb\xbf")) line.erase(0, 3);
        while (!line.empty() && (line.back() == '\r' || line.back() == ' ')) line.pop_back();
        if (line.empty() || line.starts_with('#')) continue;
        // Before names with a backslash in them `sha256sum` writes one.
        const std::size_t from = line.front() == '\\' ? 1 : 0;
        auto sum = folded(line.substr(from, digits));
        const auto end = from + digits;
        if (sum.size() != digits || sum.find_first_not_of("0123456789abcdef") != sum.npos ||
            (line.size() > end && line[end] != ' '))
            throw Error(
                Trouble::usage,
                fmt::format("Line {} of {} is no SHA-256. --{} takes one sum a line, 64 hex digits, as "
                            "sha256sum writes them.",
                            number, file, option));
        out.sums.emplace_back(sum);
    }
    std::sort(out.sums.begin(), out.sums.end());
    out.sums.erase(std::unique(out.sums.begin(), out.sums.end()), out.sums.end());
    return out;
}

std::shared_ptr<const KnownSums> known_sums_from(const std::string& file, const std::string& option) {
    std::ifstream in(file);
    std::error_code ec;
    if (!in || std::filesystem::is_directory(file, ec))
        throw Error(
            Trouble::usage,
            fmt::format("{} cannot be read. --{} takes a file with one SHA-256 a line.", file, option));
    return std::make_shared<const KnownSums>(read_known_sums(in, file, option));
}

}  // namespace undershelf
