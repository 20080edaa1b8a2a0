#pragma once
// What a check came to, in a sentence.

#include <string>

#include "shelf/shelf.hpp"

namespace undershelf {

/// For example `JPEG picture: holds up to byte 10,121 of 45,035, by a fair check`. Empty for what was not
/// checked.
std::string check_in_words(const ShelfEntry& entry);

}  // namespace undershelf
