#include "export/verify.hpp"

#include <fmt/format.h>

#include <filesystem>
#include <fstream>
#include <set>

#include "base/error.hpp"
#include "base/sha256.hpp"

namespace fs = std::filesystem;

namespace undershelf {

namespace {

/// RFC 8493, section 2.1.3: line ends and per cent signs in paths are percent-encoded.
std::string decoded_path(std::string path) {
    for (const auto& [code, character] :
         {std::pair{"%0A", "\n"}, {"%0a", "\n"}, {"%0D", "\r"}, {"%0d", "\r"}, {"%25", "%"}}) {
        for (auto at = path.find(code); at != std::string::npos; at = path.find(code, at + 1))
            path.replace(at, 3, character);
    }
    return path;
}

class Checker {
  public:
    Checker(const std::string& folder, Progress& progress) : folder_(folder), progress_(progress) {}

    Verification run() {
        std::error_code ec;
        if (fs::exists(folder_ / ".unfinished", ec))
            throw Error(
                Trouble::input,
                fmt::format("{} holds an export that is not finished; run its command again, and it goes on.",
                            folder_.string()));
        if (!fs::exists(folder_ / "bagit.txt", ec) || !fs::exists(folder_ / "manifest-sha256.txt", ec)) {
            throw Error(Trouble::input,
                        fmt::format("{} is no export: it has no bagit.txt and manifest-sha256.txt.",
                                    folder_.string()));
        }
        progress_.stage("checking");
        check_manifest("tagmanifest-sha256.txt", false);
        check_manifest("manifest-sha256.txt", true);
        if (!out_.interrupted) find_strangers();
        return std::move(out_);
    }

  private:
    void check_manifest(const char* name, bool payload) {
        std::ifstream in(folder_ / name);
        std::string line;
        for (int number = 1; std::getline(in, line) && !out_.interrupted; ++number) {
            const auto blank = line.find_first_of(" \t");
            const auto path_at = blank == std::string::npos ? blank : line.find_first_not_of(" \t*", blank);
            if (blank != 64 || path_at == std::string::npos) {
                differ(fmt::format("{}, line {}, is no checksum and path.", name, number));
                continue;
            }
            const auto path = decoded_path(line.substr(path_at));
            if (payload) listed_.insert(path);
            check_file(path, line.substr(0, 64), payload);
        }
    }

    void check_file(const std::string& path, const std::string& expected, bool payload) {
        const fs::path relative(path);
        out_.files += payload;
        bool escapes = relative.is_absolute();
        for (const auto& part : relative) escapes |= part == "..";
        if (escapes) return differ(fmt::format("{} lies outside the bag and is not looked at.", path));
        std::ifstream in(folder_ / relative, std::ios::binary);
        if (!in) return differ(fmt::format("{} is missing.", path));
        Sha256 hash;
        ByteVector buffer(1 << 20);
        while (in && !progress_.stopped()) {
            in.read(reinterpret_cast<char*>(buffer.data()), static_cast<std::streamsize>(buffer.size()));
            const auto n = static_cast<std::size_t>(in.gcount());
            hash.add(Bytes(buffer).first(n));
            progress_.at(out_.bytes += n, 0);
        }
        if (progress_.stopped()) {
            out_.interrupted = true;
        } else if (hash.hex() != expected) {
            differ(fmt::format("{} is not what was exported: its checksum differs.", path));
        } else {
            out_.sound += payload;
        }
    }

    void find_strangers() {
        std::error_code ec;
        for (fs::recursive_directory_iterator it(folder_ / "data", ec), end; !ec && it != end;
             it.increment(ec)) {
            if (it->is_directory(ec)) continue;
            const auto path = fs::relative(it->path(), folder_, ec).generic_string();
            if (!listed_.count(path))
                differ(fmt::format("{} was added; the manifest does not know it.", path));
        }
    }

    void differ(std::string sentence) { out_.differences.push_back(std::move(sentence)); }

    fs::path folder_;
    Progress& progress_;
    Verification out_;
    std::set<std::string> listed_;
};

}  // namespace

Verification verify_bag(const std::string& folder, Progress& progress) {
    return Checker(folder, progress).run();
}

}  // namespace undershelf
