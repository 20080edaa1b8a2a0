#pragma once
// The file allocation tables: reading entries from either copy, following chains, and what is in use.

#include <optional>
#include <vector>

#include "clusters/chain.hpp"
#include "clusters/use_books.hpp"
#include "fat/geometry.hpp"

namespace undershelf::fat {

using clusters::Chain;
using clusters::ChainEnd;
using clusters::ChainLimits;
using clusters::ClusterSet;
using clusters::Run;

/// In use is what is so by the better copy: a readable one, the active one first.
class Table : public clusters::UseBooks {
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
    clusters::TableEntries copies_[2];
    ClusterSet differs_;
};

}  // namespace undershelf::fat
