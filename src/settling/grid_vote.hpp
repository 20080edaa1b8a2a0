#pragma once
// Where a grid of clusters or allocation blocks was, by things that know their numbers: number n at place p
// says that p = start + n * size. For every size each of them votes for a start.

#include <cstdint>
#include <vector>

namespace undershelf::settling {

/// Something at the start of the unit with this number, counted from the grid's first.
struct Sighting {
    std::uint64_t place = 0;  ///< in the source, bytes
    std::uint64_t number = 0;
};

struct GridVote {
    std::uint64_t start = 0;      ///< of unit 0 in the source
    std::uint32_t unit_size = 0;  ///< bytes
    std::size_t votes = 0;
    std::size_t runner_up = 0;  ///< votes of the next best grid
};

/// The smallest unit that file systems use, bytes.
constexpr std::uint32_t smallest_unit = 512;

/// The grids with most votes, at most `most` of them, best first; each has `fewest` votes at least. Takes
/// n log n for each unit size up to `largest_unit`.
std::vector<GridVote> vote_for_grids(const std::vector<Sighting>& sightings, std::uint32_t largest_unit,
                                     std::size_t most, std::size_t fewest = 2);

}  // namespace undershelf::settling
