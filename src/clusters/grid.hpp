#pragma once
// The cluster grid of a volume, as FAT and exFAT have it: clusters are numbered from 2, one after the other.

#include <algorithm>
#include <cstdint>
#include <vector>

#include "base/byte_range.hpp"
#include "base/ensure.hpp"

namespace undershelf::clusters {

using Cluster = std::uint32_t;

/// Clusters first, first + 1, ..., first + count - 1.
struct Run {
    Cluster first = 0;
    std::uint32_t count = 0;
    Cluster end() const { return first + count; }
    bool operator==(const Run&) const = default;
};

inline std::uint64_t cluster_total(const std::vector<Run>& runs) {
    std::uint64_t sum = 0;
    for (const auto& r : runs) sum += r.count;
    return sum;
}

/// Adds a run after the last one, as part of it where they touch.
inline void append_run(std::vector<Run>& runs, const Run& run) {
    if (run.count == 0) return;
    ensure(run.end() > run.first, "a run ends beyond all clusters");
    if (!runs.empty() && runs.back().end() == run.first) {
        runs.back().count += run.count;
    } else {
        runs.push_back(run);
    }
}
inline void append_cluster(std::vector<Run>& runs, Cluster cluster) {
    append_run(runs, {cluster, 1});
}

struct Grid {
    std::uint64_t data_offset = 0;  ///< of cluster 2 in the source, bytes
    std::uint32_t cluster_size = 512;
    std::uint32_t count = 0;  ///< clusters by the volume's own word: 2 .. count + 1

    bool holds(std::uint64_t cluster) const { return cluster >= 2 && cluster - 2 < count; }
    /// One after the last cluster.
    std::uint64_t end() const { return std::uint64_t{count} + 2; }
    /// Of a cluster's first byte in the source.
    std::uint64_t offset(Cluster c) const {
        ensure(c >= 2, "a cluster before the first has no place");
        return data_offset + std::uint64_t{c - 2} * cluster_size;
    }
    /// The cluster that holds a byte of the source after data_offset.
    Cluster cluster_at(std::uint64_t offset) const {
        return static_cast<Cluster>((offset - data_offset) / cluster_size + 2);
    }
    ByteRange range(const Run& run) const {
        return {offset(run.first), std::uint64_t{run.count} * cluster_size};
    }
    std::vector<ByteRange> ranges(const std::vector<Run>& runs) const {
        std::vector<ByteRange> out;
        out.reserve(runs.size());
        for (const auto& r : runs) out.push_back(range(r));
        return out;
    }
    std::uint64_t clusters_for(std::uint64_t bytes) const {
        return bytes / cluster_size + (bytes % cluster_size != 0);
    }
    /// How many clusters, from the first on, begin within the first `bytes` of the source.
    std::uint32_t within(std::uint64_t bytes) const {
        const auto there = bytes > data_offset ? (bytes - data_offset + cluster_size - 1) / cluster_size : 0;
        return static_cast<std::uint32_t>(std::min<std::uint64_t>(there, count));
    }
};

}  // namespace undershelf::clusters
