#include <libheif/heif.h>

#include <algorithm>
#include <memory>

#include "drawing/decoders.hpp"

namespace undershelf::drawing {

Picture draw_heif(Content& content, std::uint32_t pixels) {
    const auto bytes = all_of(content);
    const std::unique_ptr<heif_context, decltype(&heif_context_free)> context(heif_context_alloc(),
                                                                              heif_context_free);
    if (!context) throw std::bad_alloc();
    if (heif_context_read_from_memory_without_copy(context.get(), bytes.data(), bytes.size(), nullptr).code !=
        heif_error_Ok)
        throw Undrawable{"its head is damaged"};
    heif_image_handle* raw = nullptr;
    if (heif_context_get_primary_image_handle(context.get(), &raw).code != heif_error_Ok)
        throw Undrawable{"it names no main picture"};
    const std::unique_ptr<heif_image_handle, decltype(&heif_image_handle_release)> handle(
        raw, heif_image_handle_release);
    const auto full_width = heif_image_handle_get_width(handle.get());
    const auto full_height = heif_image_handle_get_height(handle.get());
    heif_image* decoded = nullptr;
    auto shows = Shows::whole;
    std::string why;
    if (heif_decode_image(handle.get(), &decoded, heif_colorspace_RGB, heif_chroma_interleaved_RGBA, nullptr)
            .code != heif_error_Ok) {
        // The picture for those who look through many may hold.
        heif_item_id id{};
        heif_image_handle* small = nullptr;
        if (heif_image_handle_get_list_of_thumbnail_IDs(handle.get(), &id, 1) < 1 ||
            heif_image_handle_get_thumbnail(handle.get(), id, &small).code != heif_error_Ok)
            throw Undrawable{"its picture's data are damaged"};
        const std::unique_ptr<heif_image_handle, decltype(&heif_image_handle_release)> kept(
            small, heif_image_handle_release);
        if (heif_decode_image(kept.get(), &decoded, heif_colorspace_RGB, heif_chroma_interleaved_RGBA,
                              nullptr)
                .code != heif_error_Ok)
            throw Undrawable{"its picture's data are damaged"};
        shows = Shows::embedded;
        why = "the picture itself cannot be decoded";
    }
    const std::unique_ptr<heif_image, decltype(&heif_image_release)> image(decoded, heif_image_release);
    int stride = 0;
    const auto* plane = heif_image_get_plane_readonly(image.get(), heif_channel_interleaved, &stride);
    const auto width = heif_image_get_width(image.get(), heif_channel_interleaved);
    const auto height = heif_image_get_height(image.get(), heif_channel_interleaved);
    if (!plane || width <= 0 || height <= 0) throw Undrawable{"it has no pixels"};
    RowScaler rows(static_cast<std::uint64_t>(width), static_cast<std::uint64_t>(height), pixels);
    for (int y = 0; y < height; ++y) rows.row(plane + static_cast<std::ptrdiff_t>(y) * stride);
    auto out = rows.finish();
    out.full_width = static_cast<std::uint32_t>(std::max(0, full_width));
    out.full_height = static_cast<std::uint32_t>(std::max(0, full_height));
    out.shows = shows;
    out.why = why;
    return out;
}

}  // namespace undershelf::drawing
