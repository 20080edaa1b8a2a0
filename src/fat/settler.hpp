#pragma once
// How FAT volumes are settled, for its two files alone: settle_grids.cpp has which grids may have been,
// settle.cpp what bears them out and what else is left.

#include <unordered_map>

#include "fat/former.hpp"
#include "fat/structures.hpp"
#include "settling/settler.hpp"

namespace undershelf::fat {

struct Candidate : settling::Candidate {
    FormerVolume former;
    std::vector<FolderHead> supporters;
    double support = 0;
    bool width_known = false;  ///< by a boot sector, or told
};

class Settler {
  public:
    Settler(const Settling& s, const Progress& progress) : s_(s), progress_(progress) { gather(); }

    std::vector<Recognition> run();
    /// The grid with this cluster size, and this data start if it is known, that starts at `offset` or later.
    std::optional<Candidate> told(const VolumeHint& told);
    Recognition recognition(const Candidate& c) const;
    std::optional<Recognition> without_grid() const;

  private:
    void gather();
    void try_present_grid(const PresentLife& life);
    void try_head(std::uint64_t place);
    void vote();
    void try_single(const FolderHead& folder);

    FormerVolume grid_at(std::uint64_t data_start, std::uint32_t cluster_size) const;
    std::vector<FolderHead> supporters_of(const FormerVolume& former) const;
    std::vector<FolderHead> take_supporters(const FormerVolume& former);
    settling::GridEvidence hold_against(const FormerVolume& former,
                                        const std::vector<FolderHead>& folders) const;
    bool begins_with_number(Cluster cluster, const clusters::Grid& grid) const;
    void hold_entry(const FormerVolume& former, const DirEntry& e, settling::GridEvidence& out) const;
    void complete(Candidate& c);
    void find_tables(Candidate& c) const;
    void find_root(Candidate& c) const;
    std::int64_t root_score(const ByteRange& range, Width width,
                            const std::unordered_map<Cluster, Cluster>& parents) const;
    void settle_width(Candidate& c) const;

    const Settling& s_;
    const Progress& progress_;
    std::vector<FolderHead> pool_;      ///< folders nobody has explained yet
    std::vector<std::uint64_t> slots_;  ///< sectors of folder slots, ascending
    std::vector<clusters::OldFat> tables_;
    std::vector<Candidate> found_;
};

}  // namespace undershelf::fat
