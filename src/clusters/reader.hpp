#pragma once
// Streams a volume whose folders are 32-byte slots in clusters: the walk over the live tree, then over what
// was deleted, then over folders that nothing names any more. What a slot means, FAT and exFAT say each for
// itself. reader.cpp has the live tree, reader_lost.cpp what is lost, reader_structures.cpp where all that
// is.

#include <memory>
#include <unordered_map>
#include <vector>

#include "clusters/chain.hpp"
#include "clusters/folder_bytes.hpp"
#include "clusters/lost_folders.hpp"
#include "clusters/lost_layout.hpp"
#include "clusters/lost_steps.hpp"
#include "clusters/old_fat.hpp"
#include "volume/file_system.hpp"

namespace undershelf::clusters {

/// When the content was last written, in ticks: a copy keeps its date of change and gets a new date of
/// creation.
std::int64_t written(const Entry& entry);

/// What is known of a former volume's folders before they are read.
struct FormerFolders {
    std::vector<Run> root;               ///< what is left of the root folder
    std::vector<ByteRange> root_places;  ///< or, where that is not in clusters, in the source
    std::vector<Cluster> folders;        ///< where folder clusters are
    std::vector<ByteRange>
        slack;  ///< of others, whose beginning a present file has: what is left, in the source
};

/// How long a lost folder was.
struct FolderSize {
    std::uint64_t most = ~0ull;  ///< clusters
    bool recorded = false;       ///< it had just so many
    LostFolders::How how = LostFolders::How::likely;
};

/// The clusters of a present volume, as far as its size tells how many there are.
inline Grid grid_of(const Volume& volume) {
    const auto end = volume.offset + volume.size;
    const auto count =
        volume.cluster_size && end > volume.grid_start ? (end - volume.grid_start) / volume.cluster_size : 0;
    return {volume.grid_start, volume.cluster_size,
            static_cast<std::uint32_t>(std::min<std::uint64_t>(count, 0xFFFFFFF5))};
}

class Reader : public VolumeReader, protected FolderSigns {
  public:
    /// Of free space, in bytes; before it is read.
    void search_no_more_than(std::uint64_t bytes) { search_bytes_ = bytes; }
    void expect_folders(const std::vector<std::uint64_t>& places) final;
    void read(EntrySink& sink, Progress& progress) final;
    void remnants(EntrySink& sink, Progress& progress) final;
    std::vector<Structure> structures(Progress& progress) final;

  protected:
    /// `known`: clusters of which the source can tell anything, from the first on. `former`: the volume is
    /// none any more; all it has is read as lost, and no cluster is in use by it now.
    Reader(const Source& source, const Volume& volume, const Grid& grid, std::uint64_t known,
           std::optional<FormerFolders> former = std::nullopt);

    bool is_former() const { return former_.has_value(); }
    /// Of a former volume.
    const FormerFolders& former_folders() const { return *former_; }
    /// Of what a folder of the volume holds: an entry that is `erased` was deleted; one that is not, in a
    /// former volume, was there to its end.
    Origin origin_by_mark(bool erased) const {
        return is_former() && !erased ? Origin::live : Origin::deleted;
    }
    /// True when the cluster has been given to somebody else since.
    bool reused(Cluster c) const { return !is_former() && used().has(c); }

    /// A folder that can be read, and again if need be.
    struct Folder {
        EntryKey key;
        std::vector<ByteRange> ranges;
        bool live = true;
        bool lost = true;       ///< it has lost entries before its end mark
        bool leftovers = true;  ///< it has something after its end mark, or names without entries
        std::shared_ptr<const FolderBytes> bytes;  ///< kept from the first reading, within bounds
    };
    /// What reading a live folder showed of the passes to come.
    struct Noted {
        bool lost = false, leftovers = false;
        std::size_t unreadable_slots = 0;
    };

    // What each file system says for itself.

    /// What stands outside of folders: boot sectors, FATs, bitmaps.
    virtual std::vector<Structure> tables() const = 0;
    /// Clusters in use by its own books.
    virtual const ClusterSet& used() const = 0;
    /// The root folder: its clusters, or, where it is not in clusters, its place.
    virtual std::vector<ByteRange> root(std::vector<Run>& runs) = 0;
    /// Hands over a live folder's live entries. Folders among them are reported to found_folder().
    virtual Noted read_live(const Folder& folder, const FolderBytes& bytes, EntrySink& sink) = 0;
    /// Called once the live tree is known.
    virtual void live_is_read() {}
    /// Hands over what a folder has of lost entries, or, `leftovers`, of what is after its end mark.
    virtual void read_lost(const Folder& folder, const FolderBytes& bytes, bool leftovers,
                           EntrySink& sink) = 0;

    /// Of a former volume: what it had in use at its end, as far as that is known.
    virtual OldUse use_then() const { return {ClusterSet(), ClusterSet()}; }
    /// The clusters of a lost folder by a chain that is still there; nothing for none.
    virtual std::vector<Run> folder_chain(Cluster) { return {}; }
    /// Called at the end of the remnants: what is after the ends of live files.
    virtual void read_slack(EntrySink&, Progress&) {}

    // What they share.

    /// True once the work should end; folders may have a million entries, so that it is asked between these,
    /// too.
    bool stopped() const { return progress_->stopped(); }

    /// Notes the clusters that a live entry holds.
    void hold(const std::vector<Run>& runs, std::int64_t created);
    /// A live folder in clusters of its own: it will be read.
    void found_folder(const Entry& entry, Cluster start, const std::vector<Run>& runs);
    /// Notes how a live file is laid out, and that it is there. `whole`: its runs are all there.
    void count_live(const Entry& entry, const std::vector<Run>& runs, bool whole);
    void say_folder_crosses(const Entry& entry, std::uint64_t slot, EntrySink& sink) const;
    /// How far a chain that crosses others may be followed now; take_crossing() accounts for it.
    std::uint64_t crossing_limit(std::uint64_t wanted) const {
        return budget_->spent(Budget::Cost::crossing) ? 1 : wanted;
    }
    void take_crossing(const Chain& chain) {
        if (chain.crosses) budget_->take(Budget::Cost::crossing, chain.clusters());
    }

    /// How many live files of a kind lie as a lost one would be guessed to.
    struct Habit {
        Fact fact;
        std::uint64_t as_guessed = 0, files = 0;
    };
    /// Lays a lost file out as its file system would have: one run, or stepping over what was in use.
    /// `habit`: of files in one run, where all live files together say too little.
    std::vector<Run> guess(Entry& entry, Cluster start, std::uint64_t size,
                           const std::optional<Habit>& habit = std::nullopt);
    /// A lost file that lies in these runs for certain: others stepped over it while it was there.
    void note_lost(const Entry& entry, const std::vector<Run>& runs) {
        lost_->steps.add_known(entry, runs, written(entry));
    }
    /// True when the cluster belongs to nobody now.
    bool is_free(Cluster c) const { return !reused(c) && !taken_.has(c); }
    /// A lost entry of a live folder says that a folder began there.
    void note_lost_start(Cluster cluster) { lost_starts_.push_back(cluster); }
    /// A deleted folder whose first cluster is still its own: takes its clusters, and reads it in its turn.
    /// Without `runs` they are followed through free space. False when the first is another folder's.
    bool found_lost_folder(Entry& entry, Cluster start, std::vector<Run> runs = {},
                           const FolderSize& size = {});
    /// A lost folder whose first cluster is somebody else's now.
    void note_overwritten_folder(Cluster start, const EntryKey& key) { overwritten_.emplace(start, key); }
    /// The lost folder that had a cluster before somebody else got it; a stand-in where nothing names it.
    Folder former_folder(Cluster cluster, EntrySink& sink);
    /// A slot without length: was it empty, or deleted before its content was written?
    void place_empty(Entry& entry) const;
    /// How a lost file of this origin would have been laid out.
    const LostLayout& layout_of(Origin origin) const {
        return is_former() && origin == Origin::live ? *lost_->kept_layout : lost_->layout;
    }
    void emit_fragment(const std::string& name, std::uint64_t at, const Folder& folder, EntrySink& sink);

    const Source& source_;
    Volume volume_;
    Grid grid_;
    const Progress* progress_ = nullptr;
    Budget* budget_ = nullptr;         ///< of the sink, while it is read
    ClusterSet taken_;                 ///< held by live entries
    std::vector<std::uint64_t> near_;  ///< source offsets near which lost folders may lie

  private:
    /// A lost folder whose last known cluster is full: it goes on somewhere.
    struct Unfinished {
        EntryKey key;
        std::vector<Run> runs;
        FolderSize size;
        std::size_t folder;  ///< of folders_: what of it was read last
        bool grown = false;  ///< since it was handed over
    };

    /// What reading deleted entries and folders goes by: there once the live tree is read.
    struct LostPhase {
        LostPhase(const Source& source, const Grid& grid, ClusterSet followed_, LostLayout layout_,
                  std::optional<LostLayout> kept, LostFolders folders_)
            : layout(std::move(layout_)),
              kept_layout(std::move(kept)),
              steps(source, grid),
              folders(std::move(folders_)),
              followed(std::move(followed_)) {}

        LostLayout layout;
        std::optional<LostLayout> kept_layout;  ///< of files that a former volume had at its end
        LostSteps steps;
        LostFolders folders;
        ClusterSet followed;  ///< held by lost folders that are read
        /// Where free space was not looked through, and lost folders are followed as they are met: what is in
        /// use.
        std::optional<ClusterSet> busy;
        std::vector<Unfinished> unfinished;                       ///< without runs once it goes on
        std::vector<std::size_t> untried;                         ///< of these
        std::unordered_multimap<Cluster, std::size_t> waits_for;  ///< for the end of a folder
        std::uint64_t tries = 0;
        bool fill_again = false;
    };

    void read_live_tree(EntrySink& sink, Progress& progress);
    void read_former_tree(EntrySink& sink, Progress& progress);
    void begin_lost(LostLayout layout, std::optional<LostLayout> kept, LostFolders folders);
    void keep(Folder& folder, FolderBytes&& bytes, const Noted& noted);
    void report_unowned(EntrySink& sink) const;
    ClusterSet busy() const;
    void count_fragmented();
    void read_lost_from(std::size_t first, bool leftovers, EntrySink& sink, Progress& progress);
    void read_ownerless(EntrySink& sink, Progress& progress);
    void step_over_lost(EntrySink& sink, Progress& progress);
    void stand_in(const LostFolders::Head& head, EntrySink& sink);
    bool is_unfinished(const Unfinished& folder) const;
    void keep_unfinished(Unfinished&& folder);
    std::vector<std::size_t> worth_trying();
    void hand_over_grown(EntrySink& sink);
    bool go_on_with_unfinished(EntrySink& sink, Progress& progress);
    bool fill_by_size(EntrySink& sink, Progress& progress);
    void go_on(std::size_t unfinished, Cluster next, EntrySink& sink, Progress& progress);
    Entry stand_in_entry(Cluster cluster) const;
    std::vector<Run> not_followed(const std::vector<Run>& runs) const;
    /// What of a folder is worth reading: the part on the source, up to the length that folders can have.
    std::vector<ByteRange> folder_ranges(const std::vector<Run>& runs) const;

    std::optional<FormerFolders> former_;
    std::uint64_t known_;         ///< clusters of which the source can tell anything
    std::vector<Cluster> found_;  ///< clusters of folders that a sweep found
    std::uint64_t search_bytes_ = bound::search_bytes;
    std::vector<Folder> folders_;
    std::vector<Cluster> lost_starts_;
    std::vector<Folder> waiting_;
    std::uint64_t kept_ = 0;  ///< bytes of folders in memory
    std::vector<LiveExtent> live_extents_;
    std::unordered_map<Cluster, EntryKey> folder_starts_;  ///< of live and lost folders alike
    std::unordered_map<Cluster, EntryKey> overwritten_;    ///< starts of lost folders that others have now
    std::unique_ptr<LostPhase> lost_;
    LayoutHabit habit_;
    std::vector<Fragmented> fragmented_;  ///< live files, the first ones met, until they are counted
    std::size_t fragmented_runs_ = 0;
    std::uint64_t stepping_ = 0, stepping_as_guessed_ = 0;  ///< of these, once they are
    std::uint64_t empty_live_ = 0, live_count_ = 0;
};

/// Pieces of a file of `size` bytes in `ranges`, one after the other; what they do not reach is missing.
std::vector<Piece> pieces_in(const std::vector<ByteRange>& ranges, std::uint64_t size, bool known);

}  // namespace undershelf::clusters
