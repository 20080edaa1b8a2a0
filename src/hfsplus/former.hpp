#pragma once
// HFS+ volumes that have no header any more: the usual reader gets a geometry that was worked out, or told,
// and trees made of the leaf nodes that were found.

#include "hfsplus/btree.hpp"
#include "volume/file_system.hpp"

namespace undershelf::hfsplus {

/// The trees of a volume without a header.
struct FormerTrees {
    BTree extents, catalogue, attributes;
};

/// As Volume::geometry keeps it. `blocks` 0: nothing tells where blocks are. `end_date`: items made since are
/// none of its own, seconds since 1904; 0 for unknown.
std::string pack_geometry(std::uint32_t block_size, std::uint32_t blocks, std::uint32_t end_date);

std::unique_ptr<VolumeReader> open_former(const Source& source, const Volume& volume,
                                          const TraceStore& traces);
/// Throws Error(usage).
Recognition as_told(const VolumeHint& told, const Settling& settling);

}  // namespace undershelf::hfsplus
