#include "export/export.hpp"

#include <fmt/format.h>
#include <sys/statvfs.h>
#include <tbb/parallel_for.h>
#include <tbb/task_group.h>

#include <algorithm>
#include <atomic>
#include <chrono>
#include <climits>
#include <filesystem>
#include <mutex>
#include <system_error>
#include <unordered_map>
#include <unordered_set>
#include <utility>

#include "base/error.hpp"
#include "export/bag.hpp"
#include "export/entry_place.hpp"
#include "export/file_copy.hpp"
#include "export/link_targets.hpp"
#include "export/room.hpp"
#include "export/safe_names.hpp"
#include "volume/words.hpp"
#include "writing/output_file.hpp"

namespace fs = std::filesystem;

namespace undershelf {

namespace {

/// Files are written several at a time, so many together; a batch is synced to the drive when it has so much,
/// or is so old.
constexpr std::uint64_t at_once_bytes = 32 << 20, batch_bytes = 64 << 20;
constexpr std::size_t at_once_files = 512;
constexpr std::chrono::seconds batch_age{2};

bool has_content(const ShelfEntry& e) {
    return !e.is_dir && e.layout != Layout::none;
}

/// One entry on its way into the bag.
struct Task {
    ShelfEntry entry;
    std::vector<Piece> pieces;
    ExportedEntry line;
    bool to_write = false;
    bool interrupted = false;
    std::error_code trouble;
};

class Exporter {
  public:
    Exporter(const Shelf& shelf, const Source& source, const ExportOptions& options, std::uint64_t total,
             Progress& progress)
        : shelf_(shelf),
          source_(source),
          options_(options),
          progress_(progress),
          bag_(SourceGuard(source.path()), options.to, describe_job(shelf.source(), options)),
          total_(total) {
        if (options.links) links_.emplace(shelf, options.selection);
        const auto volumes = shelf.volumes();
        several_ = std::count_if(volumes.begin(), volumes.end(),
                                 [](const Volume& v) { return v.state == VolumeState::present; }) > 1;
        for (const auto& e : bag_.before()) {
            done_.emplace(e.id, &e);
            if (e.path_in_bag) paths_.take(*e.path_in_bag);
        }
    }

    ~Exporter() {
        try {
            writers_.wait();
        } catch (...) {
            // Something else is being thrown already, and says why.
        }
    }

    ExportResult run() {
        progress_.stage("exporting");
        last_commit_ = std::chrono::steady_clock::now();
        shelf_.for_each(options_.selection, {}, [this](const ShelfEntry& e) {
            e.is_dir ? add_folder(e) : add_file(e);
            if (gathered_ >= at_once_bytes || tasks_.size() >= at_once_files) write_gathered();
            return !(result_.interrupted |= progress_.stopped());
        });
        write_gathered();
        finish_writing();
        if (result_.interrupted) {
            bag_.commit_unsynced();
            return result_;
        }
        bag_.commit();
        recount_failed();
        if (links_) make_links();
        // Deepest first: setting a folder's date before what is in it was written would be in vain.
        for (auto it = folder_times_.rbegin(); it != folder_times_.rend(); ++it)
            set_folder_times(bag_.folder(), it->path, it->modified, it->accessed);
        bag_.complete(fmt::format("Files from {}", fs::path(shelf_.source().path).filename().string()));
        return result_;
    }

  private:
    struct FolderTimes {
        std::string path;
        MaybeTime modified, accessed;
    };

    /// The folder's path before it was made safe; the folder is there when this returns. Throws
    /// std::system_error.
    std::string folder_in_bag(const ShelfEntry& e, const std::string& path) {
        std::string original = "data/";
        if (options_.tree == ExportTree::keep && !path.empty()) {
            // The paths of what has no name begin with that folder.
            original += (e.origin == Origin::unnamed ? "" : top_folder(e, several_) + "/") + path;
        } else {
            original += top_folder(e, several_);
            if (options_.tree == ExportTree::kind) original += "/" + kind_folder(e);
            if (options_.tree == ExportTree::month) original += "/" + month_folder(e);
        }
        const auto out = paths_.folder(original);
        if (!made_.count(out)) {
            bag_.folder().make_folders(out);
            made_.insert(out);
        }
        return original;
    }

    void add_folder(const ShelfEntry& e) {
        if (options_.tree != ExportTree::keep) return;
        try {
            const auto path = paths_.folder(folder_in_bag(e, e.shown_path()));
            folder_times_.push_back({path, e.modified, e.accessed});
            if (links_) links_->has_place(e, path, nullptr);
            ++result_.folders;
        } catch (const std::system_error& error) {
            auto line = line_of(e);
            fail(line, error.code());
            add_line(std::move(line));
        }
    }

    void add_file(const ShelfEntry& e) {
        if (const auto it = done_.find(e.id); it != done_.end()) {
            result_.add(*it->second);
            if (links_ && it->second->path_in_bag) links_->has_place(e, *it->second->path_in_bag, it->second);
            ++result_.resumed;
            return;
        }
        Task task{e, {}, line_of(e), false, false, {}};
        if (!has_content(e)) {
            skip(task.line, "nothing tells where its content was");
        } else {
            task.pieces = shelf_.pieces(e.id);
            if (is_mostly_holes(e, task.pieces, source_) && !has_id(options_.selection.ids, e.id)) {
                skip(task.line,
                     fmt::format("it is larger than its source, and nearly all of it is holes or lost; "
                                 "`undershelf export SHELF --to DIR --id {}` exports it",
                                 e.id));
            } else {
                name(task);
            }
        }
        if (task.to_write) gathered_ += std::min(e.size, at_once_bytes);
        tasks_.push_back(std::move(task));
    }

    static void skip(ExportedEntry& line, std::string why) {
        line.outcome = "skipped";
        line.why = std::move(why);
    }

    void fail(ExportedEntry& line, const std::error_code& code) const {
        if (code.value() == ENOSPC && !out_of_names()) {
            throw Error(Trouble::output,
                        fmt::format("{} is full. What is finished is kept; free some space there and "
                                    "run the same command again.",
                                    bag_.folder().path()));
        }
        line.outcome = "failed";
        line.path_in_bag.reset();
        line.why = in_words(code);
    }

    /// A file system that has room for bytes but none for files.
    bool out_of_names() const {
        struct statvfs room {};
        return ::fstatvfs(bag_.folder().fd(), &room) == 0 && room.f_files > 0 && room.f_favail == 0;
    }

    /// Gives the entry its place in the bag.
    void name(Task& task) {
        try {
            const auto original = folder_in_bag(task.entry, task.entry.shown_folder());
            const auto path = paths_.file(original, file_name(task.entry));
            if (bag_.folder().path().size() + 1 + path.size() >= PATH_MAX)
                throw std::system_error(ENAMETOOLONG, std::generic_category());
            task.line.path_in_bag = path;
            task.to_write = true;
        } catch (const std::system_error& error) {
            fail(task.line, error.code());
        }
    }

    /// Has what was gathered written by all cores, while the next files are gathered.
    void write_gathered() {
        finish_writing();
        writing_ = std::exchange(tasks_, {});
        gathered_ = 0;
        writers_.run([this] {
            tbb::parallel_for(std::size_t{0}, writing_.size(), [this](std::size_t i) {
                if (writing_[i].to_write) write(writing_[i]);
            });
        });
    }

    void finish_writing() {
        writers_.wait();
        for (auto& task : writing_) {
            if (task.interrupted) {
                result_.interrupted = true;
                continue;  // no line, so that it is done again
            }
            if (task.trouble) fail_after_commit(task);
            if (links_ && task.line.path_in_bag)
                links_->has_place(task.entry, *task.line.path_in_bag, &task.line);
            add_line(std::move(task.line));
        }
        writing_.clear();
        const auto now = std::chrono::steady_clock::now();
        if (in_batch_ < batch_bytes && now - last_commit_ < batch_age) return;
        if (progress_.stopped()) return;
        bag_.commit();
        recount_failed();
        in_batch_ = 0;
        last_commit_ = now;
    }

    /// A full drive ends the export; what is finished is kept first.
    void fail_after_commit(Task& task) {
        try {
            fail(task.line, task.trouble);
        } catch (const Error&) {
            bag_.commit_unsynced();
            throw;
        }
    }

    void write(Task& task) {
        try {
            if (progress_.stopped()) {
                task.interrupted = true;
                return;
            }
            ContentStream stream(source_, std::move(task.pieces), task.entry.size);
            OutputFile out(bag_.folder(), Bag::part_path(task.entry.id));
            if (task.entry.size > source_.size()) out.try_size(task.entry.size);
            auto copied = copy_content(stream, out, [this](std::uint64_t n) { return wrote(n); });
            if ((task.interrupted = copied.interrupted)) return;
            out.set_times(task.entry.modified, task.entry.accessed);
            out.close();
            out.keep();
            describe(task, std::move(copied));
        } catch (const std::system_error& error) {
            task.trouble = error.code();
        }
    }

    bool wrote(std::uint64_t bytes) {
        const std::lock_guard lock(progress_mutex_);
        progress_.at(bytes_done_ += bytes, total_);
        return !progress_.stopped();
    }

    static void describe(Task& task, Copied&& copied) {
        auto& line = task.line;
        line.sha256 = std::move(copied.sha256);
        line.written = task.entry.size - total_length(copied.missing);
        line.missing = std::move(copied.missing);
        const auto grade = task.entry.rating.grade;
        if (!line.missing.empty()) {
            line.outcome = "partial";
            line.why = fmt::format("{} bytes are missing and filled with zeros", total_length(line.missing));
        } else if (grade == Grade::gone || grade == Grade::partial) {
            line.outcome = "partial";
            line.why = "bytes of it belong to other files now, or read as zeros";
        } else {
            line.outcome = "complete";
        }
    }

    /// Once everything has its place.
    void make_links() {
        const auto resolved = links_->resolved();
        std::vector<ExportedEntry> lines;
        for (const auto& r : resolved) lines.push_back(r.as_link);
        if (!bag_.make_links(lines)) return;
        result_.made_links = lines.size();
        for (const auto& r : resolved) {
            result_.take_back(r.as_text);
            result_.add(r.as_link);
        }
    }

    void add_line(ExportedEntry line) {
        result_.add(line);
        if (line.path_in_bag) in_batch_ += line.size;
        bag_.add(std::move(line));
    }

    /// What was counted as written, and could not be given its name.
    void recount_failed() {
        for (const auto& line : bag_.take_failed()) {
            if (links_) links_->has_none(line.id);
            result_.take_back(line);
            ++result_.failed;
        }
    }

    const Shelf& shelf_;
    const Source& source_;
    const ExportOptions& options_;
    Progress& progress_;
    std::mutex progress_mutex_;
    Bag bag_;
    SafePaths paths_;
    std::optional<LinkTargets> links_;  ///< where they are to be made links
    bool several_ = false;
    ExportResult result_;
    std::uint64_t total_, bytes_done_ = 0;  ///< of all files together
    std::unordered_map<std::int64_t, const ExportedEntry*> done_;
    std::unordered_set<std::string> made_;
    std::vector<FolderTimes> folder_times_;
    std::vector<Task> tasks_;    ///< gathered
    std::vector<Task> writing_;  ///< being written
    tbb::task_group writers_;
    std::uint64_t gathered_ = 0;  ///< bytes of tasks_
    std::uint64_t in_batch_ = 0;  ///< bytes since the last commit
    std::chrono::steady_clock::time_point last_commit_;
};

}  // namespace

namespace {
/// Is the last export to this folder one that has not said how it ended?
bool is_running(const Shelf& shelf, const std::string& folder) {
    bool out = false;
    for (const auto& job : shelf.jobs()) {
        if (job.work == Work::export_files && job.folder == folder) out = job.state == "running";
    }
    return out;
}
}  // namespace

ExportResult export_entries(const Shelf& shelf, const Source& source, const ExportOptions& options,
                            Progress& progress) {
    SourceGuard(source.path()).refuse(options.to);
    const auto total = check_free_space(shelf, source, options);
    const auto folder = fs::absolute(options.to).lexically_normal().string();
    const auto note = [&] { return JobNote(shelf.path(), Work::export_files, options.selection, folder); };
    try {
        Exporter exporter(shelf, source, options, total, progress);
        // What is refused until here is no export.
        auto noted = note();
        auto result = exporter.run();
        noted.end(result.interrupted ? "interrupted" : result.failed ? "failed" : "done");
        result.not_noted = noted.trouble();
        return result;
    } catch (const BagFinished&) {
        // It may have been cut off before it could say so.
        if (is_running(shelf, folder)) note().end("done");
        throw;
    }
}

}  // namespace undershelf
