#include "cli/terminal.hpp"

#include <fmt/format.h>
#include <sys/ioctl.h>
#include <unicode/uchar.h>
#include <unistd.h>

#include <algorithm>
#include <cmath>
#include <cstdlib>

#include "base/printable.hpp"

namespace undershelf::cli {

namespace {
constexpr int width_elsewhere = 160;

const char* code_of(Style style) {
    switch (style) {
        case Style::plain:
            return "";
        case Style::dim:
            return "\033[2m";
        case Style::bold:
            return "\033[1m";
        case Style::pale:
            return "\033[38;5;110m";
        case Style::middle:
            return "\033[38;5;74m";
        case Style::strong:
            return "\033[1;38;5;39m";
    }
    return "";
}

int width_of(UChar32 c) {
    if (c < 0x300) return 1;
    const auto type = u_charType(c);
    if (type == U_NON_SPACING_MARK || type == U_ENCLOSING_MARK || type == U_FORMAT_CHAR) return 0;
    const auto wide = u_getIntPropertyValue(c, UCHAR_EAST_ASIAN_WIDTH);
    return wide == U_EA_WIDE || wide == U_EA_FULLWIDTH ? 2 : 1;
}

/// The longest start of `text` of at most `width` columns.
std::string_view head(std::string_view text, int width) {
    std::size_t at = 0;
    for (int used = 0; at < text.size();) {
        auto next = at;
        used += width_of(static_cast<UChar32>(next_character(text, next)));
        if (used > width) break;
        at = next;
    }
    return text.substr(0, at);
}

/// The longest end of `text` of at most `width` columns.
std::string_view tail(std::string_view text, int width) {
    std::size_t from = 0;
    int left = columns_of(text);
    while (left > width && from < text.size())
        left -= width_of(static_cast<UChar32>(next_character(text, from)));
    return text.substr(from);
}
}  // namespace

Terminal::Terminal(ColorChoice choice) {
    interactive_ = ::isatty(STDOUT_FILENO);
    const char* no_color = std::getenv("NO_COLOR");
    color_ = choice == ColorChoice::always ||
             (choice == ColorChoice::automatic && interactive_ && !(no_color && *no_color));
    width_ = width_elsewhere;
    winsize size{};
    if (interactive_ && ::ioctl(STDOUT_FILENO, TIOCGWINSZ, &size) == 0 && size.ws_col > 0)
        width_ = size.ws_col;
    if (const char* columns = std::getenv("COLUMNS"); columns && !interactive_) {
        if (const int n = std::atoi(columns); n >= 40) width_ = n;
    }
}

std::string Terminal::styled(std::string_view text, Style style) const {
    if (!color_ || style == Style::plain) return std::string(text);
    return fmt::format("{}{}\033[0m", code_of(style), text);
}

int columns_of(std::string_view text) {
    if (is_plain(text)) return static_cast<int>(text.size());
    int out = 0;
    for (std::size_t at = 0; at < text.size();)
        out += width_of(static_cast<UChar32>(next_character(text, at)));
    return out;
}

std::string fitted(std::string_view text, int width) {
    // Most names are plain, and listings fit millions of them.
    if (is_plain(text) && static_cast<int>(text.size()) <= width) return std::string(text);
    auto clean = without_controls(text);
    if (columns_of(clean) <= width) return clean;
    if (width <= 1) return width == 1 ? "…" : "";
    const int right = (width - 1) / 2;
    return fmt::format("{}…{}", head(clean, width - 1 - right), tail(clean, right));
}

std::string padded(std::string_view text, int width, bool to_right) {
    auto out = fitted(text, width);
    const auto blanks = static_cast<std::size_t>(std::max(0, width - columns_of(out)));
    out.insert(to_right ? 0 : out.size(), blanks, ' ');
    return out;
}

std::vector<std::string> wrapped(std::string_view text, int width) {
    std::vector<std::string> out;
    std::string line;
    for (std::size_t at = 0; at < text.size();) {
        const auto end = std::min(text.find(' ', at), text.size());
        const auto word = text.substr(at, end - at);
        if (!line.empty() && columns_of(line) + 1 + columns_of(word) > width) {
            out.push_back(std::move(line));
            line.clear();
        }
        line += (line.empty() ? "" : " ") + std::string(word);
        at = end + 1;
    }
    if (!line.empty()) out.push_back(std::move(line));
    return out;
}

}  // namespace undershelf::cli
