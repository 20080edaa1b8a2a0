#pragma once
// The bag itself (RFC 8493): opening a new, an interrupted or a finished one, adding files in batches that
// survive a power cut, and its tag files once it is complete.
//
// A file is written to `.unfinished/ID.part`. Every 64 MiB or 2 s what has gathered is synced to the drive,
// then its lines are appended to the journal and synced, then the files get their names. So a line in the
// journal always has its bytes on the drive, under one of the two names; parts without a line are taken away.
//
// Whatever is in the folder is input like any other: nothing is opened through a link, and nothing outside.

#include <future>
#include <unordered_set>
#include <utility>

#include "base/error.hpp"
#include "export/exported_entry.hpp"
#include "writing/folder.hpp"

namespace undershelf {

/// The folder holds this very export, and nothing is left to do.
struct BagFinished : Error {
    explicit BagFinished(const std::string& sentence) : Error(Trouble::refused, sentence) {}
};

class Bag {
  public:
    /// Opens a new, interrupted or finished bag in `folder`, and locks it. `job` names what is exported; a
    /// bag is only gone on with for the same one, and a finished one only when entries in it failed. Throws
    /// Error: `refused` for anything else, and for a place that could change the source; `output` when
    /// nothing can be written there.
    Bag(const SourceGuard& guard, const std::string& folder, const std::string& job);
    ~Bag();
    Bag(const Bag&) = delete;
    Bag& operator=(const Bag&) = delete;

    /// What was exported before: entries that need not be written again.
    const std::vector<ExportedEntry>& before() const { return before_; }
    /// Everything in the bag is opened by its path in this folder.
    const Folder& folder() const { return folder_; }
    /// Where the content of an entry is written before it has its name.
    static std::string part_path(std::int64_t id);

    /// An entry is done; its part, if it has one, is complete and closed.
    void add(ExportedEntry entry);
    /// Syncs what has gathered, at the end or when a batch is full. Work goes on while the drive does.
    void commit();
    /// The same at once and without syncing, for an interruption: what is not on the drive is read again
    /// later.
    void commit_unsynced();
    /// The lines, as they were added, of files that could not be given their names after all.
    std::vector<ExportedEntry> take_failed();

    /// Makes links of text files that were written before, by their lines, which say what they lead to. Where
    /// this file system cannot hold them, all stay text files. Returns whether they were made.
    bool make_links(const std::vector<ExportedEntry>& links);
    /// Writes manifest and tag files; the folder is a bag from here on.
    void complete(const std::string& description);

  private:
    void lock();
    void load(const std::string& header);
    bool is_untouched() const;
    void load_journal(const std::string& header);
    void reopen();
    bool is_there(const ExportedEntry& entry, bool synced) const;
    void take_parts_away() const;
    void take_work_away() const;
    void start_journal(const std::string& header);
    void publish(std::vector<ExportedEntry> batch, bool synced);
    void append(const std::vector<ExportedEntry>& lines, bool synced);
    void wait();
    void sync() const;
    void put_tags(const std::string& description) const;
    void write_tags(const std::vector<std::pair<const char*, const std::string*>>& tags) const;

    Folder folder_;
    std::string job_;
    FileDescriptor journal_;
    std::vector<ExportedEntry> before_, waiting_, failed_;
    std::unordered_set<std::int64_t>
        nameless_;  ///< entries that have a line with a name they could not be given
    std::unordered_set<std::int64_t> made_links_;  ///< entries that have a line as a file before
    std::future<void> publishing_;
};

}  // namespace undershelf
