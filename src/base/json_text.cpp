#include "base/json_text.hpp"

#include <nlohmann/json.hpp>

namespace undershelf {
namespace {

/// Writing a value calls itself for each level: text from elsewhere must not choose how deep.
constexpr int deepest = 100;

bool too_deep(std::string_view text) {
    int depth = 0;
    bool quoted = false;
    for (std::size_t i = 0; i < text.size(); ++i) {
        const char c = text[i];
        if (quoted && c == '\\') {
            ++i;
        } else if (c == '"') {
            quoted = !quoted;
        } else if (!quoted && (c == '[' || c == '{')) {
            if (++depth > deepest) return true;
        } else if (!quoted && (c == ']' || c == '}')) {
            --depth;
        }
    }
    return false;
}

template <class Json>
Json parsed(std::string_view text) {
    if (too_deep(text)) return Json(Json::value_t::discarded);
    return Json::parse(text, nullptr, false);
}

template <class Json>
std::string dumped(const Json& value, int indent) {
    return value.dump(indent, ' ', false, Json::error_handler_t::replace);
}

}  // namespace

nlohmann::json json_in(std::string_view text) {
    return parsed<nlohmann::json>(text);
}

nlohmann::ordered_json ordered_json_in(std::string_view text) {
    return parsed<nlohmann::ordered_json>(text);
}

std::string json_text(const nlohmann::json& value) {
    return dumped(value, -1);
}

std::string json_text(const nlohmann::ordered_json& value, int indent) {
    return dumped(value, indent);
}

}  // namespace undershelf
