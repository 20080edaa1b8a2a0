#pragma once
// Chains of clusters in a file allocation table, and the table's entries themselves.

#include <cstdint>
#include <optional>
#include <vector>

#include "clusters/cluster_set.hpp"
#include "source/source.hpp"

namespace undershelf::clusters {

enum class ChainEnd : std::uint8_t {
    end_mark,    ///< as it should
    free_entry,  ///< ran into a cluster that is marked free
    outside,     ///< leaves the volume, or a bad-cluster mark
    loop,        ///< comes back to itself
    unreadable,  ///< the entry is in sectors that cannot be read
    limit,       ///< longer than the caller wanted to follow
};

struct Chain {
    std::vector<Run> runs;
    ChainEnd end = ChainEnd::end_mark;
    bool crosses = false;      ///< ran into a cluster that an earlier chain holds
    bool second_copy = false;  ///< taken from the other FAT because the first one's was worse
    std::uint64_t clusters() const { return cluster_total(runs); }
};

/// How far a chain is followed, in clusters.
struct ChainLimits {
    std::uint64_t most = ~0ull;
    std::uint64_t crossing = ~0ull;  ///< the same, once the chain has crossed another one
};

/// Cuts a chain that came back to itself where it first does, so that every cluster is in it once.
void cut_loop(Chain& chain);

/// Follows a chain from `start`. `next_of(cluster)` is the table's entry, nothing where it cannot be read;
/// values from `end_mark` on end a chain. `taken`: clusters that earlier chains hold.
template <class NextOf>
Chain follow_chain(const Grid& grid, Cluster start, const ChainLimits& limits, const ClusterSet& taken,
                   std::uint32_t end_mark, const NextOf& next_of) {
    Chain chain;
    std::uint64_t count = 0, next_mark = 1;
    // Brent's cycle detection: a mark that moves on at every power of two meets any loop.
    Cluster c = start, mark = 0;
    while (grid.holds(c)) {
        if (c == mark || count >= limits.most || (chain.crosses && count >= limits.crossing)) {
            chain.end = c == mark ? ChainEnd::loop : ChainEnd::limit;
            cut_loop(chain);
            return chain;
        }
        append_cluster(chain.runs, c);
        if (++count == next_mark) {
            mark = c;
            next_mark *= 2;
        }
        chain.crosses |= taken.has(c);
        const std::optional<std::uint32_t> next = next_of(c);
        if (!next) {
            chain.end = ChainEnd::unreadable;
            return chain;
        }
        c = *next;
    }
    chain.end = c >= end_mark ? ChainEnd::end_mark : c == 0 ? ChainEnd::free_entry : ChainEnd::outside;
    return chain;
}

/// One copy of a table, read in windows.
class TableEntries {
  public:
    /// `range`: where it is in the source; entries of 12, 16 or 32 bits.
    TableEntries(const Source& source, const ByteRange& range, unsigned bits);
    /// A table of which only `left`, ranges of the source, is left; the rest has been written over.
    TableEntries(const Source& source, const ByteRange& range, unsigned bits, RangeSet left);

    /// As it is there; nothing where it cannot be read or is not left.
    std::optional<std::uint32_t> at(Cluster c) const;
    /// True when the whole window that holds the entry reads as zeros, which most of a big volume's do.
    bool window_is_zero(Cluster c) const;
    /// Entries in a window.
    Cluster per_window() const { return static_cast<Cluster>(window_size * 8 / bits_); }
    /// Entries, from the first on, that the source has at least in part.
    std::uint64_t on_source() const;

  private:
    static constexpr std::uint64_t window_size = 64 << 10;
    struct Window {
        std::uint64_t start = ~0ull;
        ByteVector bytes;
        std::vector<ByteRange> missing;
    };

    const Source& source_;
    ByteRange range_;
    unsigned bits_;
    std::optional<RangeSet> left_;  ///< nothing: all of it
    mutable Window window_;
};

}  // namespace undershelf::clusters
