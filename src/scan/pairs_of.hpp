#pragma once
// What belongs to selected entries by its name.

#include "shelf/shelf.hpp"

namespace undershelf {

/// The numbers of the selected entries, and of the files beside them that belong to one of them
/// (volume/pairs.hpp): in the same folder as it is shown, and called the same but for the extension, or, of a
/// sidecar, but for one extension more (`PLAY.CR2.xmp`). Helpers are left out.
IdSet with_pairs(const Shelf& shelf, const Selection& selection);

}  // namespace undershelf
