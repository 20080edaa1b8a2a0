#pragma once
// Where unnamed contents may be: the space that nobody with a good claim has, and the steps at which files
// begin in it.

#include <optional>
#include <vector>

#include "volume/model.hpp"

namespace undershelf {

/// The space of a source that is nobody's.
class FreeSpace {
  public:
    /// `claimed`: what somebody has. `size` of the source, bytes.
    FreeSpace(RangeSet claimed, std::uint64_t size) : claimed_(std::move(claimed)), size_(size) {}

    bool contains(std::uint64_t offset) const { return end_of(offset) > offset; }
    /// Up to where the space is free that `offset` is in; `offset` itself where it is not.
    std::uint64_t end_of(std::uint64_t offset) const;
    const RangeSet& claimed() const { return claimed_; }
    std::uint64_t bytes() const { return size_ - claimed_.bytes(); }

  private:
    RangeSet claimed_;
    std::uint64_t size_;
};

/// The grids of clusters of all volumes that are or were on a source. Files begin at their steps; where no
/// grid is known, at sectors.
class Grids {
  public:
    explicit Grids(const std::vector<Volume>& volumes);

    /// May a file begin at this place?
    bool stands(std::uint64_t offset) const { return step_at(offset) > 0; }
    /// The smallest cluster that begins there, bytes; a sector where no grid is known, 0 where none of those
    /// that are known has a step.
    std::uint64_t step_at(std::uint64_t offset) const;
    /// The next place from `offset` on at which a cluster begins; a sector where no grid is known.
    std::uint64_t next_step(std::uint64_t offset) const;
    /// In whose space it is: of the present volume, else of the former one that most speaks for.
    std::optional<int> volume_at(std::uint64_t offset) const;
    /// Up to where the volumes reach that have a step there: a file does not go on after its volume's end.
    std::uint64_t end_at(std::uint64_t offset) const;

  private:
    struct Grid {
        ByteRange range;
        std::uint64_t step = 0;
        int volume = 0;
    };
    std::vector<Grid> grids_;  ///< those of present volumes first, then by what speaks for them
};

}  // namespace undershelf
