#pragma once
// One bag being filled: the selected entries, several at a time, each with its line.

#include <tbb/task_group.h>

#include <chrono>
#include <mutex>
#include <optional>
#include <system_error>
#include <unordered_map>
#include <unordered_set>

#include "base/progress.hpp"
#include "export/already.hpp"
#include "export/destinations.hpp"
#include "export/file_copy.hpp"
#include "export/link_targets.hpp"
#include "shelf/exported.hpp"
#include "source/source.hpp"

namespace undershelf {

/// How far all bags of an export are, for whoever waits.
struct ExportProgress {
    Progress& progress;
    std::uint64_t bytes_done = 0, total = 0;
};

class Exporter {
  public:
    /// `folder`: which of the destinations. Throws Error as Bag.
    Exporter(const Shelf& shelf, const Source& source, const ExportOptions& options,
             Destinations& destinations, std::size_t folder, ExportProgress& progress, ExportResult& result);
    ~Exporter();
    Exporter(const Exporter&) = delete;
    Exporter& operator=(const Exporter&) = delete;

    /// Adds to the result. Throws Error(output) when nothing more can be written.
    void run();
    /// Selected files that had no room in this bag, where there are several.
    std::uint64_t left_over() const { return left_over_; }
    /// What the bag has of the selected entries.
    const std::vector<ExportedRevision>& exported() const { return exported_; }

  private:
    struct FolderTimes {
        std::string path;
        MaybeTime modified, accessed;
    };
    /// One entry on its way into the bag.
    struct Task {
        ShelfEntry entry;
        std::vector<Piece> pieces;
        ExportedEntry line;
        bool to_write = false;
        bool interrupted = false;
        std::error_code trouble;
    };

    std::string original_folder(const ShelfEntry& e, const std::string& path) const;
    const std::string& folder_in_bag(const std::string& original);
    void add_folder(const ShelfEntry& e);
    bool is_done(const ShelfEntry& e);
    void add_file(const ShelfEntry& e);
    bool has_room_for(const ShelfEntry& e);
    void fail(ExportedEntry& line, const std::error_code& code) const;
    bool out_of_names() const;
    void name(Task& task);
    void write_gathered();
    void finish_writing();
    void commit_when_due();
    bool is_full(const Task& task);
    void fail_after_commit(Task& task);
    void write(Task& task);
    bool wrote(std::uint64_t bytes);
    static void describe(Task& task, Copied&& copied);
    void make_links();
    void know_targets_of_before();
    void add_line(ExportedEntry line);
    void recount_failed();
    void finish();

    const Shelf& shelf_;
    const Source& source_;
    const ExportOptions& options_;
    Destinations& destinations_;
    std::size_t number_;  ///< of the folder, from 0
    ExportProgress& progress_;
    std::mutex progress_mutex_;
    Bag bag_;
    SafePaths paths_;
    Already already_;
    std::optional<LinkTargets> links_;  ///< where they are to be made links
    bool several_volumes_ = false;
    ExportResult& result_;
    ExportResult::Part part_;
    std::uint64_t files_before_ = 0, bytes_before_ = 0;  ///< in the result
    std::optional<std::uint64_t> room_;  ///< bytes left; nothing where there is only one destination
    std::optional<std::uint64_t> largest_;
    std::uint64_t left_over_ = 0;
    std::vector<ExportedRevision> exported_;
    std::unordered_set<std::int64_t> nameless_;  ///< entries that could not be given their names
    std::unordered_map<std::int64_t, const ExportedEntry*>
        done_;  ///< in this round, before it was interrupted
    std::unordered_set<std::string> made_;
    std::vector<FolderTimes> folder_times_;
    std::vector<Task> tasks_;    ///< gathered
    std::vector<Task> writing_;  ///< being written
    tbb::task_group writers_;
    std::uint64_t gathered_ = 0;                       ///< bytes of tasks_
    std::uint64_t in_batch_ = 0, files_in_batch_ = 0;  ///< bytes and files since the last commit
    bool added_ = false;                               ///< a line
    std::chrono::steady_clock::time_point last_commit_;
};

}  // namespace undershelf
