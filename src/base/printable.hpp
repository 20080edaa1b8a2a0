#pragma once
// Names come from damaged and hostile volumes. Which of their characters must not reach a terminal, a list or
// a destination as they are: controls, changes of the writing direction, and what is no character at all.

#include <string>
#include <string_view>

namespace undershelf {

/// C0 and C1 controls, DEL, line and paragraph separators, direction embeddings, overrides and isolates
/// (UAX 9), surrogates and noncharacters.
bool is_unprintable(char32_t c);
/// The character at `at` of UTF-8 text; `at` goes on after it. U+FFFF for a byte that begins no character.
char32_t next_character(std::string_view text, std::size_t& at);

/// Calls `visit(character, its bytes)` for each.
template <class Visit>
void for_each_character(std::string_view text, const Visit& visit) {
    for (std::size_t at = 0; at < text.size();) {
        const auto from = at;
        const auto c = next_character(text, at);
        visit(c, text.substr(from, at - from));
    }
}

/// True for text of printable ASCII alone, as most names are.
bool is_plain(std::string_view text);
/// Unprintable characters as `?`.
std::string without_controls(std::string_view text);
/// A character as JSON escapes it, in one or two units of UTF-16.
void append_json_escape(std::string& out, char32_t c);
/// A text as JSON has it (RFC 8259), in quotation marks, with everything escaped that is_unprintable(): a
/// line shown on a terminal does no harm.
void append_json_text(std::string& out, std::string_view text);
/// JSON text in which unprintable characters are escaped; its own line ends stay.
std::string with_json_escapes(std::string_view json);
/// Unprintable characters as `\u001B`.
std::string with_controls_spelled(std::string_view text);

}  // namespace undershelf
