#pragma once
// What the last cluster of a content of known length looks like.

#include <cstdint>

#include "content/formats.hpp"
#include "source/source.hpp"

namespace undershelf {

/// How well a cluster fits as the last one of a content of `size` bytes: 2 where the format's end mark is
/// where it must be (and, where it has none, zeros follow the end), 1 where zeros follow the end or nothing
/// tells, 0 where the end mark is missing.
int fits_as_end(const Source& source, std::uint64_t cluster, std::uint32_t step, std::uint64_t size,
                const Format& format);

}  // namespace undershelf
