#pragma once
// Views of raw bytes. On-disk structures are structs of Boost.Endian buffers (alignment 1); `load` copies one
// out after a length check, so that no structure is ever read past the bytes that are there.

#include <boost/endian/buffers.hpp>
#include <cstdint>
#include <cstring>
#include <optional>
#include <span>
#include <type_traits>
#include <vector>

namespace undershelf {

using Bytes = std::span<const std::uint8_t>;
using MutableBytes = std::span<std::uint8_t>;
using ByteVector = std::vector<std::uint8_t>;

/// The structure at `at`, or nothing when it does not fit into `bytes`.
template <class Structure>
std::optional<Structure> load(Bytes bytes, std::size_t at = 0) {
    static_assert(std::is_trivially_copyable_v<Structure> && alignof(Structure) == 1);
    if (at > bytes.size() || bytes.size() - at < sizeof(Structure)) return std::nullopt;
    Structure out;
    std::memcpy(&out, bytes.data() + at, sizeof(Structure));
    return out;
}

inline bool all_zero(Bytes bytes) {
    // Comparing the bytes with themselves one step on is the quickest portable test.
    return bytes.empty() ||
           (bytes[0] == 0 && std::memcmp(bytes.data(), bytes.data() + 1, bytes.size() - 1) == 0);
}

constexpr bool is_power_of_two(std::uint64_t n) {
    return n != 0 && (n & (n - 1)) == 0;
}

}  // namespace undershelf
