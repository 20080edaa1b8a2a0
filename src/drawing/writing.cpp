#include "drawing/writing.hpp"

#include <algorithm>

namespace undershelf::drawing {

Layout written(cairo_t* pen, std::string_view text, const char* font, double width, int lines) {
    Layout out(pango_cairo_create_layout(pen));
    const std::unique_ptr<PangoFontDescription, decltype(&pango_font_description_free)> description(
        pango_font_description_from_string(font), pango_font_description_free);
    pango_layout_set_font_description(out.get(), description.get());
    pango_layout_set_text(out.get(), text.data(), static_cast<int>(text.size()));
    if (width > 0) {
        pango_layout_set_width(out.get(), static_cast<int>(width * PANGO_SCALE));
        pango_layout_set_wrap(out.get(), PANGO_WRAP_WORD_CHAR);
        pango_layout_set_ellipsize(out.get(), lines > 0 ? PANGO_ELLIPSIZE_END : PANGO_ELLIPSIZE_NONE);
        if (lines > 0) pango_layout_set_height(out.get(), -lines);
    }
    return out;
}

double write_at(cairo_t* pen, const Layout& layout, double x, double y) {
    cairo_move_to(pen, x, y);
    pango_cairo_show_layout(pen, layout.get());
    int height = 0;
    pango_layout_get_size(layout.get(), nullptr, &height);
    return static_cast<double>(height) / PANGO_SCALE;
}

double width_of(const Layout& layout) {
    int width = 0;
    pango_layout_get_size(layout.get(), &width, nullptr);
    return static_cast<double>(width) / PANGO_SCALE;
}

}  // namespace undershelf::drawing
