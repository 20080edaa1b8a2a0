#pragma once
// What a present HFS+ volume has of the space in its own structures, and since when. Its trees are made
// larger than they need to be, and what stood there before is in the nodes that they do not use.

#include "volume/file_system.hpp"

namespace undershelf::hfsplus {

/// The nodes that a present volume's trees have in use, and its journal.
RangeSet own_use(const Source& source, const Volume& volume);

/// When a present volume was made, by the record of its root folder; seconds since 1904 UTC, 0 for unknown.
std::uint32_t made_at(const Source& source, const Volume& volume);

}  // namespace undershelf::hfsplus
