#pragma once
// Files that belong together by their names: a raw picture and its JPEG, a still and its film, a file and its
// sidecar.

#include <cstdint>
#include <string_view>

namespace undershelf {

/// One bit each, so that several make a set.
enum class PairRole : std::uint8_t { other = 1, raw = 2, still = 4, film = 8, sidecar = 16 };

/// By the extension, in lower case.
PairRole pair_role(std::string_view ext);

/// Does one of these belong to one of those, where both are called the same but for the extension? `roles`
/// are bits.
bool makes_pair(PairRole one, unsigned roles);

}  // namespace undershelf
