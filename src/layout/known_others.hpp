#pragma once
// File systems and containers that are named for what they are, and not read.

#include <optional>

#include "volume/file_system.hpp"

namespace undershelf {

/// What is at `offset`: ext4, XFS, APFS, an encrypted volume, swap and the like. `size` is 0 where its
/// head does not tell.
std::optional<Recognition> recognise_other(const Source& source, std::uint64_t offset);

}  // namespace undershelf
