#pragma once
// Streams the entries of one present FAT volume. The walk is in clusters/reader.hpp; here is what slots mean
// on FAT: reader.cpp has live entries, reader_lost.cpp the deleted ones.

#include <vector>

#include "clusters/reader.hpp"
#include "fat/directory.hpp"
#include "fat/first_letter.hpp"
#include "fat/start_cluster.hpp"

namespace undershelf::fat {

class Reader final : public clusters::Reader {
  public:
    Reader(const Source& source, const Volume& volume, const Geometry& geometry, const ReadOptions& options);
    /// With a table made before; for a former volume it holds what is left of its FATs.
    Reader(const Source& source, const Volume& volume, const ReadOptions& options, Table&& table,
           std::optional<clusters::FormerFolders>&& former);

  private:
    /// What a live file is known again by when its old slot is found.
    struct LiveFile {
        Cluster start;
        std::uint32_t size;
        std::int64_t modified, created;
        EntryKey key;
        bool is_dir;
    };

    std::vector<Structure> tables() const override;
    const ClusterSet& used() const override { return table_.used(); }
    std::vector<ByteRange> root(std::vector<Run>& runs) override;
    Noted read_live(const Folder& folder, const FolderBytes& bytes, EntrySink& sink) override;
    void live_is_read() override;
    void read_lost(const Folder& folder, const FolderBytes& bytes, bool leftovers, EntrySink& sink) override;
    Look look_at(Cluster cluster, Bytes first) const override;
    Edge edge(Cluster cluster) const override;
    Tie tie(Cluster before, Cluster after) const override;
    /// Nothing but its slots tells where a folder goes on.
    bool may_follow(Cluster, Cluster) const override { return true; }
    std::vector<std::string> names_in(Cluster cluster) const override;
    Named named_by(const DirEntry& entry) const;
    ByteVector last_slot(Cluster c) const;
    std::vector<Run> folder_chain(Cluster start) override;
    clusters::OldUse use_then() const override { return table_.use_then(); }

    void read_live_entry(const ShortEntry& slots, const Folder& folder, EntrySink& sink);
    Chain live_chain(Entry& entry, Cluster start, std::uint64_t wanted);
    void lay_out_live(Entry& entry, const Chain& chain, std::uint64_t wanted) const;

    void read_lost_entry(const ShortEntry& slots, const Folder& folder, const SeriesLetters& siblings,
                         EntrySink& sink);
    void place_lost_file(Entry& entry, const DirEntry& raw);
    void bridge(Chain& chain, std::uint64_t wanted, std::uint64_t most) const;
    bool lay_out_broken(Entry& entry, const Chain& chain);
    bool lay_out_by_old_chain(Entry& entry, const DirEntry& raw);
    void place_lost_folder(Entry& entry, const DirEntry& raw);
    void report_bad_start(Entry& entry, const DirEntry& raw) const;
    bool is_own_folder(Cluster start, const DirEntry& raw) const;
    const LiveFile* old_slot_of(const Entry& entry, Cluster start) const;

    ByteVector cluster_bytes(Cluster c) const;

    Geometry geometry_;
    ReadOptions options_;
    CodePage page_;
    Table table_;
    std::vector<LiveFile> live_files_;
    StartFinder starts_;
};

}  // namespace undershelf::fat
