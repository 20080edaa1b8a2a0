#pragma once
// Text on a surface, by pango. What is drawn once is forgotten: layouts are made for one place each.

#include <pango/pangocairo.h>

#include <memory>
#include <string>
#include <string_view>

#include "drawing/surface.hpp"

namespace undershelf::drawing {

struct UnrefLayout {
    void operator()(PangoLayout* layout) const { g_object_unref(layout); }
};
using Layout = std::unique_ptr<PangoLayout, UnrefLayout>;

/// `font` as pango describes one, sizes in the surface's units: `Sans 12px`. `width` 0 for as wide as it
/// gets; else lines are broken, and there are `lines` of them at most, the last one ending in `...`.
Layout written(cairo_t* pen, std::string_view text, const char* font, double width = 0, int lines = 0);
/// With its upper left corner at a place. Returns its height.
double write_at(cairo_t* pen, const Layout& layout, double x, double y);
double width_of(const Layout& layout);

}  // namespace undershelf::drawing
