#pragma once
// Streams the entries of one present exFAT volume. The walk is in clusters/reader.hpp; here is what entry
// sets mean.

#include <map>
#include <vector>

#include "clusters/reader.hpp"
#include "exfat/entry_set.hpp"
#include "exfat/geometry.hpp"

namespace undershelf::exfat {

class Reader final : public clusters::Reader {
  public:
    Reader(const Source& source, const Volume& volume, const Geometry& geometry)
        : Reader(source, volume, Allocation(source, volume.offset, geometry), std::nullopt) {}
    /// With tables made before; for a former volume they hold what is left of them.
    Reader(const Source& source, const Volume& volume, Allocation&& allocation,
           std::optional<clusters::FormerFolders>&& former);

  private:
    /// Where a content lies, and how that is known.
    struct Place {
        std::vector<Run> runs;
        bool known = true;
        bool crosses = false;                            ///< another live entry has some of it
        std::optional<Fact> fact = Fact::extents_known;  ///< nothing where guessing has said it
    };
    /// What a live file is known again by when its old set is found.
    struct LiveFile {
        std::uint64_t size;
        std::int64_t created;
        EntryKey key;
        bool is_dir;
    };

    std::vector<Structure> tables() const override;
    void live_is_read() override;
    const ClusterSet& used() const override { return allocation_.used(); }
    std::vector<ByteRange> root(std::vector<Run>& runs) override;
    Noted read_live(const Folder& folder, const FolderBytes& bytes, EntrySink& sink) override;
    void read_lost(const Folder& folder, const FolderBytes& bytes, bool leftovers, EntrySink& sink) override;
    Look look_at(Cluster cluster, Bytes first) const override;
    Edge edge(Cluster cluster) const override;
    Tie tie(Cluster before, Cluster after) const override;
    /// Where no set tells, a folder goes on in the next cluster.
    bool may_follow(Cluster before, Cluster after) const override { return after == before + 1; }
    std::vector<std::string> names_in(Cluster cluster) const override;
    std::vector<Cluster> folders_named_in(Cluster cluster) const override;
    Listing listing_of(Cluster cluster) const;
    Named named_by(const EntrySet& set) const;
    clusters::OldUse use_then() const override { return allocation_.use_then(); }
    void read_slack(EntrySink& sink, Progress& progress) override;

    void read_live_set(const EntrySet& set, const Folder& folder, EntrySink& sink);
    void read_lost_set(const EntrySet& set, const Folder& folder, EntrySink& sink, bool in_slack = false);
    void place_lost_file(Entry& entry, const EntrySet& set);
    void place_lost_folder(Entry& entry, const EntrySet& set);

    Place recorded_run(const EntrySet& set) const;
    Place live_place(const EntrySet& set);
    std::optional<Place> old_chain(const EntrySet& set);
    void note_slack(std::uint64_t size, const Place& place);
    void read_slack_of(const ByteRange& range, EntrySink& sink);
    void lay_out(Entry& entry, const EntrySet& set, const Place& place) const;
    std::optional<EntryKey> old_set_of(const EntrySet& set, const Entry& entry) const;

    Geometry geometry_;
    Allocation allocation_;
    std::multimap<Cluster, LiveFile> live_files_;
    std::vector<ByteRange> slack_;         ///< after the ends of live files, in the source
    clusters::LayoutHabit chained_habit_;  ///< of live files whose bit NoFatChain is clear
    bool sets_no_fat_chain_ = false;       ///< some live file has it set
};

}  // namespace undershelf::exfat
