#pragma once
// What looking at a source says of it: in sentences, and for programs.

#include <nlohmann/json_fwd.hpp>
#include <string>
#include <vector>

#include "answers/steps.hpp"
#include "scan/inspect.hpp"

namespace undershelf {

/// What is wrong with the drive, its map or its volumes.
std::vector<std::string> health(const Inspection& seen);
/// With `plan`: what to do next.
nlohmann::ordered_json inspection_json(const Inspection& seen, const Plan& plan);

}  // namespace undershelf
