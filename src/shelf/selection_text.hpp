#pragma once
// A selection as an object of JSON, by the names of its options: the same for the same selection.

#include <string>

#include "shelf/selection.hpp"

namespace undershelf {

std::string selection_text(const Selection& selection);

}  // namespace undershelf
