#pragma once
// What a FAT volume leaves on a source after it was formatted over: folder clusters, each of which begins
// with the entries '.' and '..' and so knows its own cluster number and its parent's.

#include "volume/file_system.hpp"

namespace undershelf::fat {

/// Trace::kind of a folder cluster; a: its own cluster number, b: its parent's (0: the root folder).
constexpr std::uint32_t folder_trace = 1;

/// Reports the folder clusters that start at a sector in the owned part of `buffer`.
void find_traces(const SweepBuffer& buffer, TraceSink& sink);

/// Former volumes by voting: a folder cluster number c at position p lies at p = D + (c - 2) * S. For every
/// cluster size S each trace votes for its D; the pair (D, S) with most votes wins when it clearly beats the
/// next one, and its voters are taken out before the next round. `offset` of a volume is where its data area,
/// D, starts.
std::vector<Recognition> settle(const Source& source, const std::vector<Trace>& traces);

}  // namespace undershelf::fat
