#pragma once

#include <nlohmann/json_fwd.hpp>
#include <string>
#include <string_view>

namespace undershelf {

/// The value that a text of JSON holds. One that is not JSON, or is nested deeper than anything we write,
/// gives the discarded value, which is of no type. Reading and writing is compiled here alone: it is what
/// costs most of the library.
nlohmann::json json_in(std::string_view text);

/// The same with keys in the order of the text.
nlohmann::ordered_json ordered_json_in(std::string_view text);

/// On one line, or with an indent of so many spaces. Bytes that are not UTF-8 become U+FFFD.
std::string json_text(const nlohmann::json& value);
std::string json_text(const nlohmann::ordered_json& value, int indent = -1);

}  // namespace undershelf
