#pragma once
// What a FAT volume leaves on a source after it was formatted over: folder clusters, each of which begins
// with the entries '.' and '..' and so knows its own cluster number and its parent's; sectors of other
// folder clusters; stretches of its FATs.

#include "volume/trace.hpp"

namespace undershelf::fat {

/// Trace::kind of a folder cluster; a: its own cluster number, b: its parent's (0: the root folder).
constexpr std::uint32_t folder_trace = 1;
/// Of a sector of folder slots that does not begin a folder; a: how many of them name folders.
constexpr std::uint32_t slots_trace = 2;
/// Of a stretch of a FAT (clusters/fat_stretch.hpp).
constexpr std::uint32_t table_trace = 3;

/// Reports what starts at a sector in the owned part of `buffer`.
void find_traces(const SweepBuffer& buffer, TraceSink& sink);

}  // namespace undershelf::fat
