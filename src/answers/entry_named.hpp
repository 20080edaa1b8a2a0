#pragma once
// The one entry that somebody means.

#include <string>

#include "shelf/shelf.hpp"

namespace undershelf {

/// By its number, or by its path on its volume: the one that people are shown, of now or of before; of a
/// named stream with `:STREAM` after it. Case does not count. Throws Error(usage) where no entry is called
/// so, or more than one is, with what to give instead.
ShelfEntry entry_from(const Shelf& shelf, const std::string& text);

}  // namespace undershelf
