#pragma once
// What a shelf has, counted, and what to do next, for programs.

#include <nlohmann/json_fwd.hpp>

#include "shelf/shelf.hpp"

namespace undershelf {

nlohmann::ordered_json summary_json(const Shelf& shelf);

}  // namespace undershelf
