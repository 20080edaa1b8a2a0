#include <poppler.h>

#include <algorithm>
#include <cmath>
#include <memory>

#include "drawing/decoders.hpp"
#include "drawing/surface.hpp"

namespace undershelf::drawing {

namespace {
struct Unref {
    void operator()(void* object) const { g_object_unref(object); }
};
}  // namespace

Picture draw_pdf(Content& content, std::uint32_t pixels) {
    const auto bytes = all_of(content);
    GError* wrong = nullptr;
    const std::unique_ptr<GBytes, decltype(&g_bytes_unref)> data(
        g_bytes_new_static(bytes.data(), bytes.size()), g_bytes_unref);
    const std::unique_ptr<PopplerDocument, Unref> document(
        poppler_document_new_from_bytes(data.get(), nullptr, &wrong));
    if (!document) {
        const bool locked = wrong && wrong->code == POPPLER_ERROR_ENCRYPTED;
        g_clear_error(&wrong);
        throw Undrawable{locked ? "it opens with a password alone" : "its structure cannot be read"};
    }
    if (poppler_document_get_n_pages(document.get()) < 1) throw Undrawable{"it has no page that can be read"};
    const std::unique_ptr<PopplerPage, Unref> page(poppler_document_get_page(document.get(), 0));
    if (!page) throw Undrawable{"its first page cannot be read"};
    double width = 0, height = 0;
    poppler_page_get_size(page.get(), &width, &height);
    // Points; a page may be 200 inches long (ISO 32000-1, annex C).
    if (!(width >= 1 && height >= 1 && width <= 14400 && height <= 14400))
        throw Undrawable{"its first page has no size"};
    const auto scale = pixels / std::max(width, height);
    const auto surface = new_surface(std::max(1, static_cast<int>(std::lround(width * scale))),
                                     std::max(1, static_cast<int>(std::lround(height * scale))));
    const auto pen = white_paper(surface);
    cairo_scale(pen.get(), scale, scale);
    poppler_page_render(page.get(), pen.get());
    if (cairo_status(pen.get()) != CAIRO_STATUS_SUCCESS) throw Undrawable{"its first page cannot be drawn"};
    auto out = picture_of(surface);
    out.full_width = out.full_height = 0;
    return out;
}

}  // namespace undershelf::drawing
