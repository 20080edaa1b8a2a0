#pragma once
// Why a selection fits nothing.

#include <string>
#include <vector>

#include "answers/selection_words.hpp"
#include "shelf/shelf.hpp"

namespace undershelf {

/// Sentences: which option empties it, and which passes are not done yet. Asks the shelf once or twice for
/// each option that was said.
std::vector<std::string> why_nothing_fits(const Shelf& shelf, const Said& said);

}  // namespace undershelf
