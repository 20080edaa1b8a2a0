#pragma once
// What every command says of a volume in JSON.

#include <nlohmann/json_fwd.hpp>

#include "volume/model.hpp"

namespace undershelf {

/// The text, null for an empty one.
nlohmann::ordered_json or_null(const std::string& text);
nlohmann::ordered_json json_of(const Volume& volume);

}  // namespace undershelf
