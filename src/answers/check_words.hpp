#pragma once
// What a check came to, in a sentence, and what contents tell of themselves.

#include <string>

#include "shelf/shelf.hpp"

namespace undershelf {

/// For example `JPEG picture: holds up to byte 10,121 of 45,035, by a fair check`. Empty for what was not
/// checked.
std::string check_in_words(const ShelfEntry& entry);

/// `4000x3000 pixels, 12.5 s, 3 pages, taken with ...`: what a checked content tells of itself; empty for
/// nothing.
std::string details_in_words(const ShelfEntry& entry);

}  // namespace undershelf
