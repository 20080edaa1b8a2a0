#pragma once
// Contents line by line.

#include <algorithm>
#include <string>

#include "content/format.hpp"

namespace undershelf::content {

/// Gives out a content's lines without their ends, where each begins and what is after it, as far as
/// `text_in` says that its parts are text (so many bytes of each). `take` says whether to go on. Of a line
/// that never ends only the first kilobytes are kept. Returns the byte after the last that was given out.
template <class TextIn, class Line>
std::uint64_t for_each_line(Content& content, const TextIn& text_in, const Line& take) {
    constexpr std::size_t longest = 4096;
    Cursor at(content);
    std::string line;
    std::uint64_t line_at = 0;
    while (at.at() < content.size()) {
        const auto start = at.at();
        const auto bytes = at.take(Cursor::window);
        const auto part = text_of(bytes).substr(0, text_in(bytes));
        for (std::size_t i = 0; i < part.size();) {
            const auto end = part.find('\n', i);
            const auto piece = part.substr(i, end == part.npos ? part.npos : end - i);
            line.append(piece.substr(0, longest - std::min(longest, line.size())));
            if (end == part.npos) break;
            i = end + 1;
            if (line.ends_with('\r')) line.pop_back();
            if (!take(line, line_at, start + i)) return line_at;
            line.clear();
            line_at = start + i;
        }
        if (part.empty() || part.size() < bytes.size()) return start + part.size();
    }
    if (!line.empty()) take(line, line_at, content.size());
    return content.size();
}

}  // namespace undershelf::content
