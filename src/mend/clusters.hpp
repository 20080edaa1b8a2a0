#pragma once
// The clusters of a volume that a content in pieces may go on in, and what a look at each of them shows.

#include <cstdint>
#include <optional>
#include <vector>

#include "content/formats.hpp"
#include "source/source.hpp"

namespace undershelf {

/// What one cluster looks like, by its first 4 KiB.
struct Glance {
    bool zeros = false;   ///< throughout
    bool begins = false;  ///< like a format that is sure of its starts
    bool text = false;    ///< characters throughout its first sector
};

class FreeClusters {
  public:
    /// Clusters of `step` bytes from `grid_start` on, within `range` of the source, but for those that
    /// `taken` touches. `taken` must outlive this.
    FreeClusters(std::uint64_t grid_start, std::uint32_t step, const ByteRange& range, const RangeSet& taken);

    std::uint32_t step() const { return step_; }
    bool is_free(std::uint64_t offset) const;
    /// The next free one after the cluster at `offset`, in ascending order; nothing after the last.
    std::optional<std::uint64_t> after(std::uint64_t offset) const;
    /// The one before it.
    std::optional<std::uint64_t> before(std::uint64_t offset) const;
    std::optional<std::uint64_t> first() const;
    bool on_grid(std::uint64_t offset) const {
        return offset >= range_.offset && offset < range_.end() && (offset - grid_start_) % step_ == 0;
    }

  private:
    std::optional<std::uint64_t> next_from(std::uint64_t at) const;
    std::uint64_t step_at_or_after(std::uint64_t offset) const;

    std::uint64_t grid_start_;
    std::uint32_t step_;
    ByteRange range_;
    const RangeSet& taken_;
};

/// Clusters of `step` bytes in the order of a content of `size` bytes as ranges, which are joined where they
/// touch; the last one ends with the content.
std::vector<ByteRange> ranges_of(const std::vector<std::uint64_t>& clusters, std::uint64_t size,
                                 std::uint32_t step);

Glance glance_at(const Source& source, std::uint64_t offset, std::uint32_t step);

/// May a file of this format go on in a cluster that looks so?
bool may_go_on(const Format& format, const Glance& glance);

}  // namespace undershelf
