#include "clusters/cluster_set.hpp"

#include <algorithm>

namespace undershelf::clusters {

std::vector<ByteRange> free_samples(const Grid& grid, const ClusterSet& used) {
    std::vector<ByteRange> out;
    const auto end = std::min(grid.end(), used.end());
    const auto step = std::max<std::uint64_t>(1, end / 512);
    for (std::uint64_t c = 2; c < end; c += step) {
        if (!used.has(c)) out.push_back(grid.range({static_cast<Cluster>(c), 1}));
    }
    return out;
}

}  // namespace undershelf::clusters
