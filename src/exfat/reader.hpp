#pragma once
// Streams the entries of one present exFAT volume: the live tree, then what was deleted from it, then
// remnants.

#include <map>
#include <set>
#include <unordered_map>
#include <vector>

#include "exfat/entry_set.hpp"
#include "exfat/geometry.hpp"
#include "volume/file_system.hpp"

namespace undershelf::exfat {

class Reader final : public VolumeReader {
  public:
    Reader(const Source& source, const Volume& volume, const Geometry& geometry);
    void read(EntrySink& sink, Progress& progress) override;
    void remnants(EntrySink& sink, Progress& progress) override;

  private:
    struct Folder {
        EntryKey key;
        std::vector<ByteRange> ranges;
        bool live = true;
    };
    /// Where a content lies, and how that is known.
    struct Place {
        std::vector<Run> runs;
        bool known = true;
        Fact fact = Fact::extents_known;
    };
    /// What a live file is known again by when its old set is found.
    struct LiveFile {
        std::uint64_t size;
        std::int64_t created;
        EntryKey key;
        bool is_dir;
    };

    void read_live_folder(const Folder& folder, EntrySink& sink, std::vector<Folder>& found);
    void read_live_set(const EntrySet& set, const Folder& folder, EntrySink& sink,
                       std::vector<Folder>& found);
    void claim(const std::vector<Run>& runs);
    void report_unowned(EntrySink& sink);

    void read_lost(EntrySink& sink, Progress& progress, std::size_t from, bool behind_end);
    void read_lost_set(const EntrySet& set, const Folder& folder, EntrySink& sink);
    void read_fragment(const NameFragment& fragment, const Folder& folder, EntrySink& sink) const;
    void place_lost_folder(Entry& entry, const EntrySet& set);
    void search_free_space(Progress& progress);
    void read_ownerless_folders(EntrySink& sink, Progress& progress);

    Entry basic_entry(const EntrySet& set, const Folder& folder) const;
    Place live_place(const EntrySet& set) const;
    Place lost_place(const EntrySet& set) const;
    std::vector<Run> next_free(Cluster start, std::uint64_t clusters) const;
    void lay_out(Entry& entry, const EntrySet& set, const Place& place) const;
    std::optional<EntryKey> old_set_of(const EntrySet& set, const Entry& entry) const;
    bool begins_with_set(Cluster cluster) const;
    std::vector<ByteRange> source_ranges(const std::vector<Run>& runs) const;
    std::uint64_t clusters_for(std::uint64_t bytes) const {
        return bytes / geometry_.cluster_size + (bytes % geometry_.cluster_size != 0);
    }

    const Source& source_;
    Volume volume_;
    Geometry geometry_;
    Allocation allocation_;
    std::vector<bool> taken_;  ///< held by live entries
    std::vector<Folder> folders_;
    std::multimap<Cluster, LiveFile> live_files_;
    std::unordered_map<Cluster, EntryKey> folder_starts_;
    std::set<Cluster> ownerless_;  ///< free clusters that begin with a set, not followed yet
    std::uint64_t empty_live_ = 0, live_count_ = 0;
    std::uint64_t contiguous_live_ = 0, long_live_ = 0;
};

}  // namespace undershelf::exfat
