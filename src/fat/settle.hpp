#pragma once
// Former FAT volumes from traces. A folder cluster that knows its number votes for where the grid lay
// (clusters/grid_vote); the grids of present volumes and those that heads tell of are tested first. What
// supports a grid is taken out of the pool, and the rest goes on voting. Stretches of old FATs and what is
// left of the root folder are then looked for by the grid.

#include "volume/file_system.hpp"

namespace undershelf::fat {

std::vector<Recognition> settle(const Settling& settling, const Progress& progress);

/// A volume of a system and at a place that somebody tells. Throws Error(usage) where more must be said.
Recognition as_told(const VolumeHint& told, const Settling& settling);

}  // namespace undershelf::fat
