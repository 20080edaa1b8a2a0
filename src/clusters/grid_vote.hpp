#pragma once
// Where a cluster grid lay, by things that know their cluster numbers: number c at position p says that
// p = D + (c - 2) * S. For every cluster size S each of them votes for a data start D.

#include <optional>
#include <vector>

#include "clusters/grid.hpp"

namespace undershelf::clusters {

/// Something that stands at the start of the cluster with this number.
struct Sighting {
    std::uint64_t place = 0;  ///< in the source, bytes
    Cluster number = 0;
};

struct GridVote {
    std::uint64_t data_start = 0;  ///< of cluster 2 in the source
    std::uint32_t cluster_size = 0;
    std::size_t votes = 0;
    std::size_t runner_up = 0;  ///< votes of the next best grid

    bool fits(const Sighting& s) const {
        return s.number >= 2 && s.place >= data_start &&
               s.place - data_start == std::uint64_t{s.number - 2} * cluster_size;
    }
};

/// Cluster sizes that file systems use, bytes.
constexpr std::uint32_t smallest_cluster = 512;

/// The grids with most votes, at most `most` of them, best first; each has `fewest` votes at least. Takes
/// n log n for each cluster size up to `largest_cluster`.
std::vector<GridVote> vote_for_grids(const std::vector<Sighting>& sightings, std::uint32_t largest_cluster,
                                     std::size_t most, std::size_t fewest = 2);

}  // namespace undershelf::clusters
