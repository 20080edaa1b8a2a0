#pragma once
// The file allocation tables: reading entries from either copy, following chains, and what is in use.

#include <optional>
#include <vector>

#include "clusters/chain.hpp"
#include "clusters/old_fat.hpp"
#include "fat/geometry.hpp"

namespace undershelf::fat {

using clusters::Chain;
using clusters::ChainEnd;
using clusters::ChainLimits;
using clusters::ClusterSet;
using clusters::Run;

class Table {
  public:
    /// Whether both FATs are read once to learn what is in use; for following a chain that is not needed.
    enum class Usage : std::uint8_t { read, not_asked };
    /// `volume_offset` is the volume's place in the source, bytes.
    Table(const Source& source, std::uint64_t volume_offset, const Geometry& geometry,
          Usage usage = Usage::read);
    /// Of a former volume, with what is left of its FATs, two at most: nothing is in use.
    Table(const Source& source, std::uint64_t volume_offset, const Geometry& geometry,
          const std::vector<clusters::OldFat>& left);

    const Geometry& geometry() const { return geometry_; }
    const clusters::Grid& grid() const { return grid_; }
    /// Clusters of which the source holds the FAT's entry; nothing is known of those behind.
    std::uint64_t known_clusters() const { return known_; }
    /// In use by the better copy: a readable one, the active one first.
    const ClusterSet& used() const { return used_; }
    /// Of a former volume: what it had in use, as far as its FATs are left.
    const clusters::OldUse& use_then() const { return use_then_; }
    /// The first cluster from `from` to `to` whose entry is left; nothing for none.
    std::optional<std::uint64_t> first_left(std::uint64_t from, std::uint64_t to) const {
        if (!use_then_.used.any(from, to) && !use_then_.free.any(from, to)) return std::nullopt;
        return use_then_.used.next_in(from, use_then_.free.next_in(from, to));
    }
    bool in_use(Cluster c) const { return used_.has(c); }
    std::uint64_t used_clusters() const { return used_.count(); }
    bool differs(Cluster c) const { return differs_.has(c); }
    std::uint64_t differing_clusters() const { return differs_.count(); }

    /// Follows the chain from `start` for a content of `wanted` clusters, in the copy in which it holds
    /// better. `taken` tells which clusters earlier chains hold; nothing is added to it.
    Chain follow(Cluster start, std::uint64_t wanted, const ChainLimits& limits,
                 const ClusterSet& taken) const;

  private:
    std::optional<std::uint32_t> entry(unsigned copy, Cluster c) const;
    std::optional<std::uint32_t> best_entry(unsigned copy, Cluster c) const;
    Chain follow_in(unsigned copy, Cluster start, const ChainLimits& limits, const ClusterSet& taken) const;
    void load_usage();

    Geometry geometry_;
    clusters::Grid grid_;
    clusters::TableEntries copies_[2];
    std::uint64_t known_;
    ClusterSet used_, differs_;
    clusters::OldUse use_then_;
};

}  // namespace undershelf::fat
