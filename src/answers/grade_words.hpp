#pragma once
// An entry's grade in words, for people.

#include <string>

#include "shelf/shelf.hpp"

namespace undershelf {

/// `likely`; `not rated yet` and `not copied yet` where the entry has no grade yet.
std::string grade_text(const ShelfEntry& entry);

/// Why an entry has its grade, in a sentence.
std::string reason_of(const Shelf& shelf, const ShelfEntry& entry);

}  // namespace undershelf
