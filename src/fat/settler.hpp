#pragma once
// How FAT volumes are settled, for its two files alone: settle_grids.cpp has which grids may have been,
// settle.cpp what bears them out and what else is left.

#include <unordered_map>

#include "clusters/grid_evidence.hpp"
#include "fat/former.hpp"
#include "fat/structures.hpp"

namespace undershelf::fat {

struct Candidate {
    FormerVolume former;
    std::string found_by;
    std::vector<FolderHead> supporters;
    std::vector<std::string> votes;
    clusters::GridEvidence evidence;
    double support = 0;
    bool width_known = false;  ///< by a boot sector, or told
};

class Settler {
  public:
    Settler(const Settling& s, const Progress& progress) : s_(s), progress_(progress) { gather(); }

    std::vector<Recognition> run() {
        for (const auto& life : s_.present) try_present_grid(life);
        for (const auto head : s_.heads) try_head(head);
        vote();
        std::vector<Recognition> out;
        for (auto& c : found_) {
            complete(c);
            out.push_back(recognition(c));
        }
        if (out.empty() && !progress_.stopped()) {
            if (auto loose = without_grid()) out.push_back(std::move(*loose));
        }
        return out;
    }

    /// The grid with this cluster size, and this data start if it is known, that starts at `offset` or later.
    std::optional<Candidate> told(const Told& told) {
        Candidate c;
        auto start = told.data_offset;
        if (!start) {
            std::vector<clusters::Sighting> in_range;
            for (const auto& f : pool_) {
                if (f.place >= told.offset) in_range.push_back({f.place, f.own});
            }
            for (const auto& vote : clusters::vote_for_grids(in_range, *told.cluster_size, 64)) {
                if (vote.cluster_size == *told.cluster_size && vote.data_start >= told.offset && !start)
                    start = vote.data_start;
            }
        }
        if (!start) return std::nullopt;
        c.former = grid_at(*start, *told.cluster_size);
        c.former.offset = std::min(told.offset, *start);
        c.former.geometry.data_offset = *start - c.former.offset;
        c.former.geometry.width = width_of(told.system);
        c.width_known = true;
        c.found_by = "told";
        c.supporters = take_supporters(c.former);
        complete(c);
        return c;
    }
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
    clusters::GridEvidence hold_against(const FormerVolume& former,
                                        const std::vector<FolderHead>& folders) const;
    bool begins_with_number(Cluster cluster, const clusters::Grid& grid) const;
    void hold_entry(const FormerVolume& former, const DirEntry& e, clusters::GridEvidence& out) const;
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
