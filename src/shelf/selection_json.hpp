#pragma once
// A selection as an object of JSON, by the names of its options: the same for the same selection.

#include <nlohmann/json_fwd.hpp>

#include "shelf/selection.hpp"

namespace undershelf {

nlohmann::ordered_json selection_json(const Selection& selection);

}  // namespace undershelf
