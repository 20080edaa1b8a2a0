#include "export/export.hpp"

#include <fmt/format.h>
#include <sys/statvfs.h>

#include <algorithm>
#include <cstring>
#include <filesystem>
#include <future>
#include <system_error>
#include <unordered_map>

#include "base/error.hpp"
#include "base/sha256.hpp"
#include "base/text.hpp"
#include "export/bag.hpp"
#include "export/output_file.hpp"
#include "export/safe_names.hpp"
#include "source/destination_guard.hpp"
#include "volume/content_stream.hpp"
#include "volume/words.hpp"

namespace fs = std::filesystem;

namespace undershelf {

namespace {

constexpr std::size_t chunk_size = 1 << 20;
/// Below this, starting a second thread costs more than hashing.
constexpr std::uint64_t overlap_from = 1 << 20;

/// Where in the bag an entry stands before its own path.
std::string top_folder(const ShelfEntry& e, bool several_volumes) {
    switch (e.origin) {
        case Origin::live:
        case Origin::deleted: {
            std::string out(word(e.origin));
            return several_volumes && e.volume ? fmt::format("{}/volume-{}", out, *e.volume) : out;
        }
        case Origin::former:
            return fmt::format("former-{}", e.volume.value_or(0));
        case Origin::unnamed:
            return fmt::format("unnamed/{}", word(e.kind));
    }
    return "unknown";
}

std::string file_name(const ShelfEntry& e) {
    if (e.stream == resource_fork_stream) return "._" + e.name;
    return e.stream.empty() ? e.name : e.name + "~" + e.stream;
}

std::vector<std::string> attribute_words(std::uint32_t attributes) {
    std::vector<std::string> out;
    if (attributes & attribute::read_only) out.push_back("read-only");
    if (attributes & attribute::hidden) out.push_back("hidden");
    if (attributes & attribute::system) out.push_back("system");
    return out;
}

struct Copied {
    std::string sha256;
    std::vector<ByteRange> missing;
    bool interrupted = false;
};

/// Reads, writes and hashes; the hash of one chunk is worked out while the next one is read and written.
Copied copy_content(ContentStream& stream, OutputFile& out, Progress& progress,
                    const std::function<void(std::uint64_t)>& wrote) {
    Copied result;
    Sha256 hash;
    ByteVector buffers[2];
    std::future<void> hashing;
    int current = 0;
    for (std::uint64_t at = 0; at < stream.size(); at += chunk_size) {
        if (progress.stopped()) {
            if (hashing.valid()) hashing.get();
            result.interrupted = true;
            return result;
        }
        auto& buffer = buffers[current];
        buffer.resize(static_cast<std::size_t>(std::min<std::uint64_t>(chunk_size, stream.size() - at)));
        for (const auto& m : stream.read(at, buffer)) {
            if (!result.missing.empty() && result.missing.back().end() == m.offset) {
                result.missing.back().length += m.length;
            } else {
                result.missing.push_back(m);
            }
        }
        if (hashing.valid()) hashing.get();
        if (stream.size() >= overlap_from) {
            hashing = std::async(std::launch::async, [&hash, &buffer] { hash.add(buffer); });
        } else {
            hash.add(buffer);
        }
        out.write(buffer);
        wrote(buffer.size());
        current = 1 - current;
    }
    if (hashing.valid()) hashing.get();
    result.sha256 = hash.hex();
    return result;
}

class Exporter {
  public:
    Exporter(const Shelf& shelf, const Source& source, const ExportOptions& options, Progress& progress)
        : shelf_(shelf),
          source_(source),
          options_(options),
          progress_(progress),
          bag_(options.to, purpose(shelf, options)) {
        const auto volumes = shelf.volumes();
        several_ = std::count_if(volumes.begin(), volumes.end(),
                                 [](const Volume& v) { return v.state == VolumeState::present; }) > 1;
        for (const auto& e : bag_.before()) {
            done_.emplace(e.id, &e);
            if (e.path_in_bag) paths_.take(*e.path_in_bag);
        }
    }

    ExportResult run() {
        progress_.stage("exporting");
        shelf_.for_each(options_.selection, {}, [this](const ShelfEntry& e) {
            total_ += has_content(e) ? e.size : 0;
            return true;
        });
        shelf_.for_each(options_.selection, {}, [this](const ShelfEntry& e) {
            e.is_dir ? add_folder(e) : add_file(e);
            return !(result_.interrupted |= progress_.stopped());
        });
        if (result_.interrupted) return result_;
        // Deepest first: setting a folder's date before what is in it was written would be in vain.
        for (auto it = folder_times_.rbegin(); it != folder_times_.rend(); ++it)
            set_path_times(it->path, it->modified, it->accessed);
        bag_.complete(fmt::format("Files from {}", fs::path(shelf_.source().path).filename().string()));
        return result_;
    }

  private:
    struct FolderTimes {
        std::string path;
        MaybeTime modified, accessed;
    };

    static std::string purpose(const Shelf& shelf, const ExportOptions& options) {
        const auto where = where_clause(options.selection);
        std::string values;
        for (const auto& v : where.values)
            std::visit([&](const auto& x) { values += fmt::format(" {}", x); }, v);
        const auto source = shelf.source();
        return fmt::format("{} of {} bytes; {}{}; {}", source.path, source.size,
                           where.text.empty() ? "all" : where.text, values,
                           options.flat ? "flat" : "tree kept");
    }

    static bool has_content(const ShelfEntry& e) { return !e.is_dir && e.layout != Layout::none; }

    std::string folder_in_bag(const ShelfEntry& e, const std::string& path) {
        auto original = "data/" + top_folder(e, several_);
        if (!options_.flat && !path.empty()) original += "/" + path;
        auto out = paths_.folder(original);
        if (made_.insert(out).second) fs::create_directories(fs::path(bag_.folder()) / out);
        return original;
    }

    void add_folder(const ShelfEntry& e) {
        if (options_.flat) return;
        const auto path = paths_.folder(folder_in_bag(e, e.path()));
        folder_times_.push_back({(fs::path(bag_.folder()) / path).string(), e.modified, e.accessed});
        ++result_.folders;
    }

    void add_file(const ShelfEntry& e) {
        if (const auto it = done_.find(e.id); it != done_.end()) {
            count(*it->second);
            ++result_.resumed;
            return;
        }
        ExportedEntry line;
        line.id = e.id;
        line.path = e.stream.empty() ? e.path() : e.path() + ":" + e.stream;
        line.size = e.size;
        line.attributes = attribute_words(e.attributes);
        if (!has_content(e)) {
            line.outcome = "skipped";
            line.why = "nothing tells where its content was";
        } else {
            try {
                if (!write_file(e, line)) return;  // interrupted: no line, so that it is done again
            } catch (const std::system_error& error) {
                line.outcome = "failed";
                line.path_in_bag.reset();
                line.why = error.code().message();
                if (error.code().value() == ENOSPC) {
                    throw Error(Trouble::input, fmt::format("{} is full. What is finished is kept; free some "
                                                            "space there and run the same command again.",
                                                            bag_.folder()));
                }
            }
        }
        bag_.add(line);
        count(line);
    }

    /// False when interrupted.
    bool write_file(const ShelfEntry& e, ExportedEntry& line) {
        const auto original = folder_in_bag(e, e.folder_path);
        ContentStream stream(source_, shelf_.pieces(e.id), e.size);
        OutputFile out(bag_.temporary_path());
        auto copied = copy_content(stream, out, progress_,
                                   [this](std::uint64_t n) { progress_.at(bytes_done_ += n, total_); });
        if (copied.interrupted) {
            result_.interrupted = true;
            return false;
        }
        out.set_times(e.modified, e.accessed);
        const auto path = paths_.file(original, file_name(e));
        out.publish((fs::path(bag_.folder()) / path).string());
        line.path_in_bag = path;
        line.sha256 = std::move(copied.sha256);
        line.written = e.size - total_length(copied.missing);
        line.missing = std::move(copied.missing);
        const auto grade = e.rating.grade;
        if (!line.missing.empty()) {
            line.outcome = "partial";
            line.why = fmt::format("{} bytes are missing and filled with zeros", total_length(line.missing));
        } else if (grade == Grade::gone || grade == Grade::partial) {
            line.outcome = "partial";
            line.why = "bytes of it belong to other files now, or read as zeros";
        } else {
            line.outcome = "whole";
        }
        return true;
    }

    void count(const ExportedEntry& line) {
        auto& counter = line.outcome == "whole"     ? result_.whole
                        : line.outcome == "partial" ? result_.partial
                        : line.outcome == "skipped" ? result_.skipped
                                                    : result_.failed;
        ++counter;
        if (line.path_in_bag) result_.bytes += line.size;
    }

    const Shelf& shelf_;
    const Source& source_;
    const ExportOptions& options_;
    Progress& progress_;
    Bag bag_;
    SafePaths paths_;
    bool several_ = false;
    ExportResult result_;
    std::uint64_t total_ = 0, bytes_done_ = 0;
    std::unordered_map<std::int64_t, const ExportedEntry*> done_;
    std::unordered_set<std::string> made_;
    std::vector<FolderTimes> folder_times_;
};

void check_free_space(const Shelf& shelf, const ExportOptions& options) {
    std::uint64_t needed = 0, files = 0;
    shelf.for_each(options.selection, {}, [&](const ShelfEntry& e) {
        if (!e.is_dir && e.layout != Layout::none) {
            // Files take whole blocks.
            needed += (e.size + 4095) / 4096 * 4096;
            ++files;
        }
        return true;
    });
    auto folder = fs::absolute(options.to);
    while (!fs::exists(folder) && folder.has_parent_path() && folder != folder.parent_path())
        folder = folder.parent_path();
    struct statvfs room {};
    if (::statvfs(folder.c_str(), &room) != 0) return;
    const auto free = std::uint64_t{room.f_bavail} * room.f_frsize;
    std::uint64_t there = 0;
    std::error_code ec;
    for (fs::recursive_directory_iterator it(options.to, ec), end; !ec && it != end; it.increment(ec)) {
        if (it->is_regular_file(ec)) there += it->file_size(ec);
    }
    if (needed > free + there) {
        throw Error(Trouble::refused,
                    fmt::format("{} has {} bytes free, and the {} selected files need {}. Choose a larger "
                                "destination or select less, for example with --grade likely+.",
                                options.to, free, files, needed));
    }
}

}  // namespace

ExportResult export_entries(const Shelf& shelf, const Source& source, const ExportOptions& options,
                            Progress& progress) {
    refuse_destination_on_source(source.path(), options.to);
    check_free_space(shelf, options);
    Exporter exporter(shelf, source, options, progress);
    return exporter.run();
}

}  // namespace undershelf
