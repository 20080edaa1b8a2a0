#pragma once
// The bag itself (RFC 8493): opening a new, an interrupted or a finished one, adding files in batches that
// survive a power cut, and its tag files once a round is complete.
//
// A file is written to `.unfinished/ID.part`. Every 64 MiB or 2 s what has gathered is synced to the drive,
// then its lines are appended to the journal and synced, then the files get their names. So a line in the
// journal always has its bytes on the drive, under one of the two names; parts without a line are taken away.
//
// Every export of a shelf into its bag is a round. The tag files are those of the finished rounds until all
// those of the new one are on the drive beside them; then they take their places, one after the other. Who
// looks meanwhile takes the new ones (`bag_files`).
//
// Whatever is in the folder is input like any other: nothing is opened through a link, and nothing outside.

#include <future>
#include <unordered_set>
#include <utility>

#include "base/error.hpp"
#include "export/bag_past.hpp"
#include "export/exported_entry.hpp"
#include "writing/folder.hpp"

namespace undershelf {

class Bag {
  public:
    /// Opens a new, interrupted or finished bag in `folder`, locks it and begins a round, or goes on with the
    /// one that was interrupted. Throws Error: `refused` for anything else (as BagPast), and for a place that
    /// could change the source; `output` when nothing can be written there.
    Bag(const SourceGuard& guard, const std::string& folder, BagOwner owner);
    ~Bag();
    Bag(const Bag&) = delete;
    Bag& operator=(const Bag&) = delete;

    /// Of finished rounds.
    const BagPast& past() const { return *past_; }
    unsigned round() const { return round_; }
    /// Was this round interrupted before?
    bool goes_on() const { return goes_on_; }
    /// What was exported in this round before it was interrupted: entries that need not be written again.
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
    /// Writes manifest and tag files; the folder is a bag with this round from here on. `description`: of a
    /// new bag.
    void complete(const std::string& description);
    /// Nothing was added: the bag stays as it is, without this round.
    void leave();

  private:
    void lock();
    void begin();
    void finish_moving();
    bool is_there(const ExportedEntry& entry, bool synced) const;
    void take_parts_away() const;
    void take_work_away() const;
    void start_journal();
    void publish(std::vector<ExportedEntry> batch, bool synced);
    void append(const std::vector<ExportedEntry>& lines, bool synced);
    void wait();
    void sync() const;
    struct Tags;
    void each_of_this_round(const BagPast::Visit& visit) const;
    void add_finished_rounds(Tags& to) const;
    void add_this_round(Tags& to) const;
    void write_tags(const std::string& description) const;

    Folder folder_;
    BagOwner owner_;
    std::optional<BagPast> past_;
    unsigned round_ = 1;
    bool goes_on_ = false;
    FileDescriptor journal_;
    std::vector<ExportedEntry> before_, waiting_, failed_;
    std::unordered_set<std::int64_t>
        nameless_;  ///< entries that have a line with a name they could not be given
    std::unordered_set<std::int64_t> made_links_;  ///< entries that have a line as a file before
    std::future<void> publishing_;
};

}  // namespace undershelf
