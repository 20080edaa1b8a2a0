#pragma once
// Streams the entries of one present FAT volume: the live tree, then what was deleted from it, then remnants.

#include <map>
#include <unordered_map>
#include <vector>

#include "fat/directory.hpp"
#include "fat/lost_folders.hpp"
#include "fat/lost_layout.hpp"
#include "fat/start_cluster.hpp"
#include "volume/file_system.hpp"

namespace undershelf::fat {

class Reader final : public VolumeReader {
  public:
    Reader(const Source& source, const Volume& volume, const Geometry& geometry, const ReadOptions& options);
    void read(EntrySink& sink, Progress& progress) override;
    void remnants(EntrySink& sink, Progress& progress) override;

  private:
    /// A folder whose slots can be read again.
    struct Folder {
        EntryKey key;
        std::vector<ByteRange> ranges;
        bool live = true;
    };
    /// What a live file is known again by when its old slot is found.
    struct LiveFile {
        Cluster start;
        std::uint32_t size;
        std::int64_t modified, created;
        EntryKey key;
        bool is_dir;
    };

    void read_live(EntrySink& sink, Progress& progress);
    void read_live_folder(const Folder& folder, EntrySink& sink, std::vector<Folder>& found);
    void read_live_entry(const Slots& slots, const Folder& folder, EntrySink& sink,
                         std::vector<Folder>& found);
    void claim_live(const std::vector<Run>& runs, std::int64_t created, bool is_dir);
    void lay_out_live(Entry& entry, const Chain& chain, std::uint64_t wanted) const;
    void report_unowned(EntrySink& sink);

    void read_lost(EntrySink& sink, Progress& progress, std::size_t from, bool behind_end);
    void read_lost_entry(const Slots& slots, const Folder& folder, const Listing& siblings, EntrySink& sink);
    void read_orphan(const Orphan& orphan, const Folder& folder, EntrySink& sink) const;
    void place_lost_file(Entry& entry, const DirEntry& raw) const;
    void report_bad_start(Entry& entry, const DirEntry& raw) const;
    std::optional<EntryKey> lost_before(const Entry& entry, const DirEntry& raw);
    void place_lost_folder(Entry& entry, const DirEntry& raw);
    void read_ownerless_folders(EntrySink& sink, Progress& progress);
    void stand_in(Cluster first, Cluster parent, EntrySink& sink);
    std::uint64_t most_folder_clusters() const;
    bool is_own_folder(Cluster start, const DirEntry& raw) const;
    const LiveFile* old_slot_of(const Entry& entry, Cluster start) const;

    Entry basic_entry(const Slots& slots, const Folder& folder) const;
    void name_entry(Entry& entry, const Slots& slots, const Listing* siblings) const;
    ByteRange source_range(const Run& run) const;
    std::vector<ByteRange> source_ranges(const std::vector<Run>& runs) const;
    std::uint64_t clusters_for(std::uint64_t bytes) const;

    const Source& source_;
    Volume volume_;
    Geometry geometry_;
    ReadOptions options_;
    CodePage page_;
    Table table_;
    ClusterSet taken_;  ///< held by live chains
    std::uint64_t crossings_ =
        0;  ///< clusters followed in chains that cross others, to bound hostile volumes
    std::vector<Folder> folders_;
    std::vector<LiveFile> live_files_;
    std::vector<std::uint64_t> hints_;  ///< source offsets near which lost folders may lie
    std::vector<LiveExtent> live_extents_;
    LayoutHabit habit_;
    std::unique_ptr<LostLayout> lost_layout_;
    std::unique_ptr<LostFolders> lost_folders_;
    std::unordered_map<Cluster, EntryKey> folder_starts_;  ///< of live and lost folders alike
    StartFinder starts_;
    struct LostFile {
        Cluster start;
        std::uint32_t size;
        std::int64_t modified, created;
        auto operator<=>(const LostFile&) const = default;
    };
    std::map<LostFile, EntryKey> lost_files_;
    std::uint64_t empty_live_ = 0, live_count_ = 0;
};

/// When the content was last written, in ticks: a copy keeps its date of change and gets a new date of
/// creation.
std::int64_t written(const Entry& entry);

/// Pieces of a file of `size` bytes in `ranges`, one behind the other; what they do not reach is missing.
std::vector<Piece> pieces_in(const std::vector<ByteRange>& ranges, std::uint64_t size, bool known);

}  // namespace undershelf::fat
