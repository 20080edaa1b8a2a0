#pragma once
// Sizes that are meant wherever volumes are looked for.

#include <cstdint>

namespace undershelf {

constexpr std::uint64_t mebibyte = 1 << 20;
/// Partitions of before 2010 begin at whole tracks of 63 sectors, the first one at the second track.
constexpr std::uint64_t track = 63 * 512;

}  // namespace undershelf
