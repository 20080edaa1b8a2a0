#pragma once
// Numbers that come out as if by chance, the same each time.

#include <cstdint>

namespace undershelf {

/// The finisher of splitmix64: equal numbers meet, others practically never do, and numbers in a row are
/// scattered.
constexpr std::uint64_t mixed(std::uint64_t x) {
    x = (x ^ (x >> 30)) * 0xBF58476D1CE4E5B9ull;
    x = (x ^ (x >> 27)) * 0x94D049BB133111EBull;
    return x ^ (x >> 31);
}

}  // namespace undershelf
