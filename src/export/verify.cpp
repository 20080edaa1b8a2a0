#include "export/verify.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>
#include <unistd.h>

#include <filesystem>
#include <fstream>
#include <mutex>
#include <unordered_set>

#include "base/error.hpp"
#include "base/sha256.hpp"
#include "export/output_file.hpp"

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
    struct Line {
        std::string path, expected;
    };

    /// Reads a manifest, then checks its files, several at a time.
    void check_manifest(const char* name, bool payload) {
        std::ifstream in(folder_ / name);
        std::string text;
        std::vector<Line> lines;
        for (int number = 1; std::getline(in, text) && !progress_.stopped(); ++number) {
            const auto blank = text.find_first_of(" \t");
            const auto path_at = blank == std::string::npos ? blank : text.find_first_not_of(" \t*", blank);
            if (blank != 64 || path_at == std::string::npos) {
                differ(fmt::format("{}, line {}, is no checksum and path.", name, number));
                continue;
            }
            lines.push_back({decoded_path(text.substr(path_at)), text.substr(0, 64)});
        }
        std::vector<std::string> findings(lines.size());
        tbb::parallel_for(
            tbb::blocked_range<std::size_t>(0, lines.size(), 1),
            [&](const tbb::blocked_range<std::size_t>& range) {
                for (auto i = range.begin(); i < range.end(); ++i) findings[i] = finding(lines[i]);
            },
            tbb::simple_partitioner());
        out_.interrupted |= progress_.stopped();
        if (out_.interrupted) return;
        for (std::size_t i = 0; i < lines.size(); ++i) {
            if (payload) ++out_.files, listed_.insert(std::move(lines[i].path));
            if (!findings[i].empty()) {
                differ(std::move(findings[i]));
            } else {
                out_.sound += payload;
            }
        }
    }

    /// What is wrong with a file, in a sentence; nothing when it is sound.
    std::string finding(const Line& line) {
        const fs::path relative(line.path);
        bool escapes = relative.is_absolute();
        for (const auto& part : relative) escapes |= part == "..";
        if (escapes) return fmt::format("{} lies outside the bag and is not looked at.", line.path);
        const int fd = ::open((folder_ / relative).c_str(), O_RDONLY | O_CLOEXEC);
        if (fd < 0)
            return errno == ENOENT || errno == ENOTDIR
                       ? fmt::format("{} is missing.", line.path)
                       : fmt::format("{} cannot be read: {}.", line.path,
                                     in_words({errno, std::generic_category()}));
        Sha256 hash;
        thread_local ByteVector buffer(256 << 10);
        ssize_t n = 0;
        while (!progress_.stopped() &&
               ((n = ::read(fd, buffer.data(), buffer.size())) > 0 || (n < 0 && errno == EINTR))) {
            if (n < 0) continue;
            hash.add(Bytes(buffer).first(static_cast<std::size_t>(n)));
            const std::lock_guard lock(mutex_);
            progress_.at(out_.bytes += static_cast<std::uint64_t>(n), 0);
        }
        const auto trouble = n < 0 ? errno : 0;
        ::close(fd);
        if (trouble)
            return fmt::format("{} cannot be read: {}.", line.path,
                               in_words({trouble, std::generic_category()}));
        return hash.hex() == line.expected
                   ? std::string()
                   : fmt::format("{} is not what was exported: its checksum differs.", line.path);
    }

    void find_strangers() {
        std::error_code ec;
        for (fs::recursive_directory_iterator it(folder_ / "data", ec), end; !ec && it != end;
             it.increment(ec)) {
            if (it->is_directory(ec)) continue;
            const auto path = it->path().lexically_relative(folder_).generic_string();
            if (!listed_.count(path))
                differ(fmt::format("{} was added; the manifest does not know it.", path));
        }
    }

    void differ(std::string sentence) { out_.differences.push_back(std::move(sentence)); }

    fs::path folder_;
    Progress& progress_;
    Verification out_;
    std::mutex mutex_;
    std::unordered_set<std::string> listed_;
};

}  // namespace

Verification verify_bag(const std::string& folder, Progress& progress) {
    return Checker(folder, progress).run();
}

}  // namespace undershelf
