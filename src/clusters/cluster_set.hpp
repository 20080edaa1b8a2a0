#pragma once
// A set of clusters. It has room for the clusters that a source can know of; those after are never in it, so
// that a volume that claims billions costs nothing.

#include "base/bit_set.hpp"
#include "clusters/grid.hpp"

namespace undershelf::clusters {

class ClusterSet : public BitSet {
  public:
    /// Room for the clusters 2 .. clusters + 1.
    explicit ClusterSet(std::uint64_t clusters = 0) : BitSet(clusters + 2) {}

    using BitSet::add;
    using BitSet::any;
    void add(const Run& run) { add(run.first, std::uint64_t{run.first} + run.count); }
    bool any(const Run& run) const { return any(run.first, std::uint64_t{run.first} + run.count); }
};

/// Free clusters spread over the volume, a few hundred at most, as source ranges.
std::vector<ByteRange> free_samples(const Grid& grid, const ClusterSet& used);

}  // namespace undershelf::clusters
