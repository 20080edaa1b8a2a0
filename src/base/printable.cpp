#include "base/printable.hpp"

#include <fmt/format.h>
#include <unicode/utf8.h>

#include <algorithm>

namespace undershelf {

bool is_unprintable(char32_t c) {
    return c < 0x20 || (c >= 0x7F && c < 0xA0) || c == 0x2028 || c == 0x2029 ||
           (c >= 0x202A && c <= 0x202E) || (c >= 0x2066 && c <= 0x2069) || (c >= 0xD800 && c < 0xE000) ||
           (c >= 0xFDD0 && c <= 0xFDEF) || (c & 0xFFFE) == 0xFFFE;
}

char32_t next_character(std::string_view text, std::size_t& at) {
    auto i = static_cast<int32_t>(at);
    UChar32 c = 0;
    U8_NEXT(text.data(), i, static_cast<int32_t>(text.size()), c);
    at = static_cast<std::size_t>(i);
    return c < 0 ? U'\uFFFF' : static_cast<char32_t>(c);
}

bool is_plain(std::string_view text) {
    return std::all_of(text.begin(), text.end(), [](char c) { return c >= 0x20 && c < 0x7F; });
}

std::string without_controls(std::string_view text) {
    std::string out;
    for_each_character(text,
                       [&](char32_t c, std::string_view bytes) { out += is_unprintable(c) ? "?" : bytes; });
    return out;
}

std::string with_controls_spelled(std::string_view text) {
    std::string out;
    for_each_character(text, [&](char32_t c, std::string_view bytes) {
        if (is_unprintable(c)) {
            out += fmt::format("\\u{:04X}", static_cast<std::uint32_t>(c));
        } else {
            out += bytes;
        }
    });
    return out;
}

void append_json_escape(std::string& out, char32_t c) {
    if (c < 0x10000) {
        fmt::format_to(std::back_inserter(out), "\\u{:04x}", static_cast<unsigned>(c));
        return;
    }
    const auto rest = static_cast<unsigned>(c) - 0x10000;
    fmt::format_to(std::back_inserter(out), "\\u{:04x}\\u{:04x}", 0xD800 + (rest >> 10),
                   0xDC00 + (rest & 0x3FF));
}

void append_json_text(std::string& out, std::string_view text) {
    out += '"';
    const auto append = [&out](char32_t c, std::string_view bytes) {
        if (c == '"' || c == '\\') {
            out += '\\';
            out += bytes;
        } else if (!is_unprintable(c)) {
            out += bytes;
        } else {
            append_json_escape(out, c);
        }
    };
    if (is_plain(text) && text.find_first_of("\"\\") == std::string_view::npos) {
        out += text;
    } else {
        for_each_character(text, append);
    }
    out += '"';
}

std::string with_json_escapes(std::string_view json) {
    std::string out;
    out.reserve(json.size());
    for_each_character(json, [&](char32_t c, std::string_view bytes) {
        if (c != '\n' && is_unprintable(c)) {
            append_json_escape(out, c);
        } else {
            out += bytes;
        }
    });
    return out;
}

}  // namespace undershelf
