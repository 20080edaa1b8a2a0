#pragma once
// A set of clusters, one bit each. It has room for the clusters that a source can know of; those behind are
// never in it, so that a volume that claims billions costs nothing.

#include <cstdint>
#include <vector>

#include "clusters/grid.hpp"

namespace undershelf::clusters {

class ClusterSet {
  public:
    /// Room for the clusters 2 .. clusters + 1.
    explicit ClusterSet(std::uint64_t clusters = 0) : end_(clusters + 2), words_((end_ + 63) / 64) {}

    bool has(std::uint64_t c) const { return c < end_ && (words_[c / 64] >> c % 64 & 1); }
    void add(std::uint64_t c) {
        if (c < end_) words_[c / 64] |= 1ull << c % 64;
    }
    void add(const Run& run);
    /// All of another set that there is room for.
    void add(const ClusterSet& other);
    /// Is any cluster of the run in it?
    bool any(const Run& run) const { return next_in(run.first) < std::uint64_t{run.first} + run.count; }
    /// The first cluster from `c` on that is in it; a number behind all of them when there is none.
    std::uint64_t next_in(std::uint64_t c) const;
    /// The first cluster from `c` on that is not in it.
    std::uint64_t next_out(std::uint64_t c) const;
    std::uint64_t count() const;
    /// One behind the last cluster that it has room for.
    std::uint64_t end() const { return end_; }

  private:
    std::uint64_t end_;
    std::vector<std::uint64_t> words_;
};

/// Free clusters spread over the volume, a few hundred at most, as source ranges.
std::vector<ByteRange> free_samples(const Grid& grid, const ClusterSet& used);

}  // namespace undershelf::clusters
