#include <fmt/format.h>

#include <algorithm>

#include "base/printable.hpp"
#include "drawing/decoders.hpp"
#include "drawing/writing.hpp"

namespace undershelf::drawing {

Picture draw_text(std::string_view text, std::uint32_t pixels) {
    constexpr std::size_t most_text = 8 << 10, most_lines = 60;
    constexpr double across = 0.72;  // of its height, as paper is
    // No more than a page shows: what is without line ends is broken by pango.
    std::string shown;
    std::size_t lines = 0;
    for_each_character(text.substr(0, most_text), [&](char32_t c, std::string_view bytes) {
        if (lines >= most_lines) return;
        if (c == U'\n') ++lines;
        if (c == U'\n' || c == U'\t') {
            shown += bytes;
        } else if (!is_unprintable(c)) {
            shown += bytes;
        }
    });
    const auto height = static_cast<double>(pixels), width = std::max(1.0, height * across);
    const auto surface = new_surface(static_cast<int>(width), static_cast<int>(height));
    const auto pen = white_paper(surface);
    const auto margin = width * 0.07;
    cairo_rectangle(pen.get(), 0, 0, width, height - margin / 2);
    cairo_clip(pen.get());
    cairo_set_source_rgb(pen.get(), 0.13, 0.13, 0.13);
    const auto font = fmt::format("Sans {}px", std::max(4.0, height / 34));
    write_at(pen.get(), written(pen.get(), shown, font.c_str(), width - 2 * margin), margin, margin);
    auto out = picture_of(surface);
    out.full_width = out.full_height = 0;
    out.shows = Shows::text;
    return out;
}

}  // namespace undershelf::drawing
