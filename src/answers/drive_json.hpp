#pragma once
// What the system knows of a drive, as JSON has it everywhere.

#include <nlohmann/json.hpp>
#include <optional>
#include <vector>

#include "source/health.hpp"

namespace undershelf {

/// Null for unknown.
template <class Value>
nlohmann::ordered_json or_null(const std::optional<Value>& value) {
    return value ? nlohmann::ordered_json(*value) : nlohmann::ordered_json(nullptr);
}

nlohmann::ordered_json json_of(const std::vector<DriveHealth::Mount>& mounts);
nlohmann::ordered_json json_of(const DriveHealth& drive);

}  // namespace undershelf
