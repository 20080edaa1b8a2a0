#pragma once
// Sums of sizes that volumes claim: the largest number there is rather than a small wrong one.

#include <cstdint>
#include <limits>

namespace undershelf {

constexpr std::uint64_t saturating_add(std::uint64_t a, std::uint64_t b) {
    return b > std::numeric_limits<std::uint64_t>::max() - a ? std::numeric_limits<std::uint64_t>::max()
                                                             : a + b;
}

}  // namespace undershelf
