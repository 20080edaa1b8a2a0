#pragma once
// The file allocation tables: reading entries from either copy, following chains, and what is in use.

#include <optional>
#include <vector>

#include "fat/geometry.hpp"
#include "source/source.hpp"

namespace undershelf::fat {

/// Clusters first, first + 1, ..., first + count - 1.
struct Run {
    Cluster first = 0;
    std::uint32_t count = 0;
    bool operator==(const Run&) const = default;
};

inline std::uint64_t cluster_total(const std::vector<Run>& runs) {
    std::uint64_t sum = 0;
    for (const auto& r : runs) sum += r.count;
    return sum;
}

/// Adds one cluster behind the last run, or starts a new one.
void append_cluster(std::vector<Run>& runs, Cluster cluster);

/// One bit a cluster.
class ClusterSet {
  public:
    explicit ClusterSet(std::uint32_t cluster_count) : bits_(std::size_t{cluster_count} + 2) {}
    bool has(Cluster c) const { return c < bits_.size() && bits_[c]; }
    void add(Cluster c) {
        if (c < bits_.size()) bits_[c] = true;
    }

  private:
    std::vector<bool> bits_;
};

enum class ChainEnd : std::uint8_t {
    end_mark,    ///< as it should
    free_entry,  ///< ran into a cluster that is marked free
    outside,     ///< leaves the volume, or a bad-cluster mark
    loop,        ///< comes back to itself
    unreadable,  ///< the entry stands in sectors that no FAT copy can be read from
    limit,       ///< longer than the caller wanted to follow
};

struct Chain {
    std::vector<Run> runs;
    ChainEnd end = ChainEnd::end_mark;
    bool crosses = false;      ///< ran into a cluster that an earlier chain holds
    bool second_copy = false;  ///< taken from the other FAT because the first one's was worse
    std::uint64_t clusters() const { return cluster_total(runs); }
};

class Table {
  public:
    /// Reads both FATs once to learn what is in use. `volume_offset` is the volume's place in the source,
    /// bytes.
    Table(const Source& source, std::uint64_t volume_offset, const Geometry& geometry);

    const Geometry& geometry() const { return geometry_; }
    /// In use by the better copy: a readable one, the active one first.
    bool in_use(Cluster c) const { return used_.has(c); }
    std::uint64_t used_clusters() const { return used_count_; }
    bool differs(Cluster c) const { return differs_.has(c); }
    std::uint64_t differing_clusters() const { return differing_; }

    /// How far a chain is followed, in clusters.
    struct Limits {
        std::uint64_t most = ~0ull;
        std::uint64_t crossing = ~0ull;  ///< the same, once the chain has crossed another one
    };
    /// Follows the chain from `start` for a content of `wanted` clusters, in the copy in which it holds
    /// better. `taken` tells which clusters earlier chains hold; nothing is added to it.
    Chain follow(Cluster start, std::uint64_t wanted, const Limits& limits, const ClusterSet& taken) const;

  private:
    struct Window {
        std::uint64_t start = ~0ull;
        ByteVector bytes;
        std::vector<ByteRange> missing;
    };
    std::optional<std::uint32_t> entry(unsigned copy, Cluster c) const;
    std::optional<std::uint32_t> best_entry(unsigned copy, Cluster c) const;
    Chain follow_in(unsigned copy, Cluster start, const Limits& limits, const ClusterSet& taken,
                    bool* met_difference) const;
    bool window_is_free(unsigned copy, Cluster c) const;
    void load_usage();

    const Source& source_;
    std::uint64_t volume_offset_;
    Geometry geometry_;
    ClusterSet used_, differs_;
    std::uint64_t used_count_ = 0, differing_ = 0;
    mutable Window windows_[2];
};

}  // namespace undershelf::fat
