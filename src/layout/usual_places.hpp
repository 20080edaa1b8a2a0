#pragma once
// Where volumes start when no map says.

#include <cstdint>
#include <optional>

#include "base/byte_range.hpp"

namespace undershelf {

/// Places in a stretch of a source where volumes usually start, the most usual ones first, none twice:
/// its start, 63 sectors after it (as older formatters align), the first MiBs of it, and then all the other
/// whole MiBs of the source in it, the roundest first, so that a search that ends early has looked all over.
class UsualPlaces {
  public:
    explicit UsualPlaces(const ByteRange& stretch);
    /// Bytes of the source; nothing once all were told.
    std::optional<std::uint64_t> next();
    /// How many are told before the rounder ones all over the stretch begin.
    static constexpr std::uint64_t near_start = 66;

  private:
    std::optional<std::uint64_t> next_round();

    ByteRange stretch_;
    std::uint64_t aligned_;   ///< the first whole MiB
    std::uint64_t told_ = 0;  ///< of those near the start
    std::uint64_t step_ = 0;  ///< the odd multiples of it are told now
    std::uint64_t at_ = 0;    ///< the next of them
};

}  // namespace undershelf
