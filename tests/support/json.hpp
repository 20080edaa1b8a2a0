#pragma once
// Reading and writing JSON, compiled once for all tests: it is what costs most of the library.

#include <nlohmann/json.hpp>
#include <string>
#include <vector>

namespace undershelf::test {

/// Throws where it is not JSON.
nlohmann::json parsed(const std::string& text);
nlohmann::ordered_json ordered_parsed(const std::string& text);

/// Objects of JSON, a line each.
std::vector<nlohmann::json> lines_of(const std::string& text);

std::string dumped(const nlohmann::json& value);
std::string dumped(const nlohmann::ordered_json& value);

}  // namespace undershelf::test
