#pragma once
// Which clusters a volume's own books have in use: a FAT, or a bitmap.

#include <optional>

#include "clusters/old_fat.hpp"

namespace undershelf::clusters {

class UseBooks {
  public:
    const Grid& grid() const { return grid_; }
    /// Clusters of which the source can tell anything; nothing is known of those after them.
    std::uint64_t known_clusters() const { return known_; }
    /// Not in use where the books cannot be read.
    const ClusterSet& used() const { return used_; }
    bool in_use(Cluster c) const { return used_.has(c); }
    std::uint64_t used_clusters() const { return used_.count(); }
    /// Of a former volume: what it had in use, as far as its FATs are left.
    const OldUse& use_then() const { return use_then_; }
    /// The first cluster from `from` to `to` whose entry in such a FAT is left; nothing for none.
    std::optional<std::uint64_t> first_left(std::uint64_t from, std::uint64_t to) const {
        if (!use_then_.used.any(from, to) && !use_then_.free.any(from, to)) return std::nullopt;
        return use_then_.used.next_in(from, use_then_.free.next_in(from, to));
    }

  protected:
    UseBooks(const Grid& grid, std::uint64_t known, OldUse use_then = {ClusterSet(), ClusterSet()})
        : grid_(grid), known_(known), used_(known), use_then_(std::move(use_then)) {}

    Grid grid_;
    std::uint64_t known_;
    ClusterSet used_;

  private:
    OldUse use_then_;
};

}  // namespace undershelf::clusters
