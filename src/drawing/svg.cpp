#include <librsvg/rsvg.h>

#include <algorithm>
#include <cmath>
#include <memory>

#include "drawing/decoders.hpp"
#include "drawing/surface.hpp"

namespace undershelf::drawing {

Picture draw_svg(Content& content, std::uint32_t pixels) {
    constexpr std::uint64_t most = 32 << 20;
    const auto bytes = all_of(content, most);
    struct Unref {
        void operator()(RsvgHandle* h) const { g_object_unref(h); }
    };
    // Without a base no file that it names is looked for.
    GError* wrong = nullptr;
    const std::unique_ptr<RsvgHandle, Unref> handle(
        rsvg_handle_new_from_data(bytes.data(), bytes.size(), &wrong));
    if (!handle) {
        g_clear_error(&wrong);
        throw Undrawable{"it is no SVG picture from its start to its end"};
    }
    rsvg_handle_set_dpi(handle.get(), 96);
    gdouble width = 0, height = 0;
    if (!rsvg_handle_get_intrinsic_size_in_pixels(handle.get(), &width, &height) ||
        !(width > 0 && height > 0)) {
        gboolean has_width = FALSE, has_height = FALSE, has_box = FALSE;
        RsvgLength w{}, h{};
        RsvgRectangle box{};
        rsvg_handle_get_intrinsic_dimensions(handle.get(), &has_width, &w, &has_height, &h, &has_box, &box);
        width = has_box && box.width > 0 && std::isfinite(box.width) ? box.width : 1;
        height = has_box && box.height > 0 && std::isfinite(box.height) ? box.height : 1;
    }
    const auto scale = pixels / std::max(width, height);
    const auto shown = [&](double side) {
        return std::clamp(side * scale, 1.0, static_cast<double>(pixels));
    };
    const auto surface = new_surface(static_cast<int>(std::lround(shown(width))),
                                     static_cast<int>(std::lround(shown(height))));
    const auto pen = pen_on(surface);
    const RsvgRectangle all{0, 0, shown(width), shown(height)};
    if (!rsvg_handle_render_document(handle.get(), pen.get(), &all, &wrong)) {
        g_clear_error(&wrong);
        throw Undrawable{"it asks for more than is drawn"};
    }
    auto out = picture_of(surface);
    const auto told = [](double side) {
        return static_cast<std::uint32_t>(std::clamp(std::lround(side), 0L, 1'000'000L));
    };
    out.full_width = told(width);
    out.full_height = told(height);
    return out;
}

}  // namespace undershelf::drawing
