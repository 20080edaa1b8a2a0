#pragma once
// What is left of the FATs of a former volume: stretches that say where their table began, and the sectors
// between them that could be part of it.

#include <vector>

#include "clusters/cluster_set.hpp"
#include "clusters/fat_stretch.hpp"
#include "source/source.hpp"

namespace undershelf::clusters {

/// One table, as far as it is left.
struct OldFat {
    std::uint64_t place = 0;  ///< of entry 0 in the source, bytes
    unsigned bits = 32;       ///< of an entry
    RangeSet left;            ///< ranges of the source
    std::uint64_t end() const { return left.empty() ? place : left.ranges().back().end(); }
    bool operator==(const OldFat& other) const {
        return place == other.place && bits == other.bits && left.ranges() == other.left.ranges();
    }
};

/// The tables that stretches belong to, ascending by their places. Stretches in `taken` space are not left.
std::vector<OldFat> tables_of(const TraceStore& traces, std::uint32_t kind, const RangeSet& taken);

/// Those of `tables`, two at most and all of one width, that may have been this grid's: they stood between
/// `lowest` and its data, and the largest of their entries is not much beyond its clusters. Sectors around
/// their stretches that are not taken, and whose entries are free, marks, or clusters that the grid holds,
/// are added to them. Reads at most 256 MiB each.
std::vector<OldFat> tables_before(const Source& source, const std::vector<OldFat>& tables, const Grid& grid,
                                  std::uint64_t lowest, const RangeSet& taken);

/// What a former volume had in use at its end, as far as its FATs are left.
struct OldUse {
    ClusterSet used{0}, free{0};  ///< clusters in neither are unknown
};
OldUse use_by(const Source& source, const Grid& grid, const std::vector<OldFat>& tables);

}  // namespace undershelf::clusters
