#pragma once
// A look at the space that nobody with a good claim has: would a sweep, or a search for contents, find
// anything there?

#include <vector>

#include "base/progress.hpp"
#include "shelf/scan_state.hpp"
#include "source/source.hpp"
#include "unnamed/space.hpp"

namespace undershelf {

/// A small source is looked at whole, of a larger one some hundred places, evenly spread, 32 MiB together.
/// What cannot be read, or is not copied yet, is left out. Ends early, with nothing, once `progress` says so.
std::optional<SpaceLook> look_at_space(const Source& source, const FreeSpace& space, const Grids& grids,
                                       Progress& progress);

}  // namespace undershelf
