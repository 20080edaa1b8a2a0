#pragma once
// What one unit of sound or picture looks like inside, for containers that tell where each begins and ends:
// a frame that decodes, or parts whose lengths add up. Every codec that is known here is told by the
// container's own name for it.

#include <memory>

#include "content/density.hpp"

namespace undershelf::content {

/// Looks into the units of one track, in their order.
class UnitCheck {
  public:
    virtual ~UnitCheck() = default;
    /// Does the unit hold? `offset` and `size` are in bytes; all of it is in the content, unless missing.
    virtual bool holds(Content& content, std::uint64_t offset, std::uint64_t size, Density& density) = 0;
};

/// AVC (ISO/IEC 14496-10) and HEVC (ISO/IEC 23008-2) as ISO/IEC 14496-15 stores them: each NAL unit after
/// its length, which takes `length_size` bytes.
std::unique_ptr<UnitCheck> nal_units(unsigned length_size);
/// AAC (ISO/IEC 14496-3), decoded; `setup` is its AudioSpecificConfig. Null when that makes no sense.
std::unique_ptr<UnitCheck> aac_units(Bytes setup);
/// A whole JPEG picture each.
std::unique_ptr<UnitCheck> jpeg_units();
/// Nothing is known of the inside: the bytes must be there.
std::unique_ptr<UnitCheck> unknown_units();

/// Units of more bytes than this may begin well and be another file's after.
constexpr std::uint64_t most_unseen = 4096;

/// Are these bytes of the content all there?
bool readable(Content& content, std::uint64_t offset, std::uint64_t size);

}  // namespace undershelf::content
