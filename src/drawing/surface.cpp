#include "drawing/surface.hpp"

#include <csetjmp>
#include <cstdio>
// jpeglib.h needs stdio before it.
#include <jpeglib.h>
#include <png.h>

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <new>

namespace undershelf::drawing {

Surface new_surface(int width, int height) {
    Surface out(cairo_image_surface_create(CAIRO_FORMAT_ARGB32, width, height), cairo_surface_destroy);
    if (cairo_surface_status(out.get()) != CAIRO_STATUS_SUCCESS) throw std::bad_alloc();
    return out;
}

Pen pen_on(const Surface& surface) {
    return {cairo_create(surface.get()), cairo_destroy};
}

Pen white_paper(const Surface& surface) {
    auto out = pen_on(surface);
    cairo_set_source_rgb(out.get(), 1, 1, 1);
    cairo_paint(out.get());
    return out;
}

Picture picture_of(const Surface& surface) {
    cairo_surface_flush(surface.get());
    Picture out;
    out.width = cairo_image_surface_get_width(surface.get());
    out.height = cairo_image_surface_get_height(surface.get());
    out.full_width = static_cast<std::uint32_t>(out.width);
    out.full_height = static_cast<std::uint32_t>(out.height);
    const auto* data = cairo_image_surface_get_data(surface.get());
    const auto stride = cairo_image_surface_get_stride(surface.get());
    for (int y = 0; y < out.height; ++y) {
        const auto* row =
            reinterpret_cast<const std::uint32_t*>(data + static_cast<std::ptrdiff_t>(y) * stride);
        out.argb.insert(out.argb.end(), row, row + out.width);
    }
    return out;
}

Surface surface_of(const Picture& picture) {
    auto out = new_surface(picture.width, picture.height);
    cairo_surface_flush(out.get());
    auto* data = cairo_image_surface_get_data(out.get());
    const auto stride = cairo_image_surface_get_stride(out.get());
    for (int y = 0; y < picture.height; ++y)
        std::copy_n(picture.argb.begin() + static_cast<std::ptrdiff_t>(y) * picture.width, picture.width,
                    reinterpret_cast<std::uint32_t*>(data + static_cast<std::ptrdiff_t>(y) * stride));
    cairo_surface_mark_dirty(out.get());
    return out;
}

namespace {

/// Where a point of the picture comes to be (Exif 2.3, table 6): for a picture of width w and height h.
cairo_matrix_t turned(int orientation, double w, double h) {
    switch (orientation) {
        case 2:
            return {-1, 0, 0, 1, w, 0};
        case 3:
            return {-1, 0, 0, -1, w, h};
        case 4:
            return {1, 0, 0, -1, 0, h};
        case 5:
            return {0, 1, 1, 0, 0, 0};
        case 6:
            return {0, 1, -1, 0, h, 0};
        case 7:
            return {0, -1, -1, 0, h, w};
        case 8:
            return {0, -1, 1, 0, 0, w};
        default:
            return {1, 0, 0, 1, 0, 0};
    }
}

/// Grey lines over the rows from `top` on: nobody takes them for what was photographed.
void hatch(cairo_t* pen, double top, double width, double height) {
    cairo_save(pen);
    cairo_rectangle(pen, 0, top, width, height - top);
    cairo_clip(pen);
    cairo_set_source_rgb(pen, 0.93, 0.93, 0.93);
    cairo_paint(pen);
    cairo_set_source_rgb(pen, 0.55, 0.55, 0.55);
    const auto step = std::max(6.0, std::max(width, height) / 40);
    cairo_set_line_width(pen, std::max(1.0, step / 8));
    for (auto x = -height; x < width + height; x += step) {
        cairo_move_to(pen, x, height);
        cairo_line_to(pen, x + height, 0);
    }
    cairo_stroke(pen);
    cairo_restore(pen);
}

}  // namespace

Surface finished(const Picture& picture, std::uint32_t pixels) {
    const double w = picture.width, h = picture.height;
    const bool on_side = picture.on_side();
    const auto scale = std::min(1.0, pixels / std::max({w, h, 1.0}));
    const auto shown = [&](double side) { return std::max(1, static_cast<int>(std::lround(side * scale))); };
    auto out = new_surface(shown(on_side ? h : w), shown(on_side ? w : h));
    const auto pen = pen_on(out);
    cairo_scale(pen.get(), cairo_image_surface_get_width(out.get()) / (on_side ? h : w),
                cairo_image_surface_get_height(out.get()) / (on_side ? w : h));
    const auto matrix = turned(picture.orientation, w, h);
    cairo_transform(pen.get(), &matrix);
    const auto source = surface_of(picture);
    cairo_set_source_surface(pen.get(), source.get(), 0, 0);
    // As it is, or turned, every pixel is one pixel.
    const bool as_it_is = scale >= 1;
    cairo_pattern_set_filter(cairo_get_source(pen.get()),
                             as_it_is ? CAIRO_FILTER_NEAREST : CAIRO_FILTER_GOOD);
    if (!as_it_is) cairo_pattern_set_extend(cairo_get_source(pen.get()), CAIRO_EXTEND_PAD);
    cairo_paint(pen.get());
    if (picture.share < 1) hatch(pen.get(), std::floor(h * picture.share), w, h);
    return out;
}

namespace {
/// Red, green, blue and alpha, not premultiplied.
std::vector<std::uint8_t> straight(const Picture& picture) {
    std::vector<std::uint8_t> out;
    out.reserve(picture.argb.size() * 4);
    for (const auto pixel : picture.argb) {
        const auto alpha = pixel >> 24;
        for (const int shift : {16, 8, 0}) {
            const auto value = pixel >> shift & 0xFF;
            out.push_back(static_cast<std::uint8_t>(
                alpha == 0 ? 0 : std::min(255u, (value * 255 + alpha / 2) / alpha)));
        }
        out.push_back(static_cast<std::uint8_t>(alpha));
    }
    return out;
}
}  // namespace

void write_png(const Surface& surface, const TakeFile& take) {
    const auto picture = picture_of(surface);
    const auto pixels = straight(picture);
    png_structp png = png_create_write_struct(PNG_LIBPNG_VER_STRING, nullptr, nullptr, nullptr);
    png_infop info = png ? png_create_info_struct(png) : nullptr;
    if (!info || setjmp(png_jmpbuf(png))) {
        png_destroy_write_struct(&png, &info);
        throw std::bad_alloc();
    }
    png_set_write_fn(
        png, const_cast<TakeFile*>(&take),
        [](png_structp p, png_bytep bytes, std::size_t length) {
            (*static_cast<const TakeFile*>(png_get_io_ptr(p)))(
                {reinterpret_cast<const char*>(bytes), length});
        },
        nullptr);
    // Drawn many at a time: a little larger, and in a third of the time.
    constexpr int quick = 3;
    png_set_compression_level(png, quick);
    png_set_filter(png, 0, PNG_FILTER_SUB);
    png_set_IHDR(png, info, static_cast<png_uint_32>(picture.width), static_cast<png_uint_32>(picture.height),
                 8, PNG_COLOR_TYPE_RGBA, PNG_INTERLACE_NONE, PNG_COMPRESSION_TYPE_DEFAULT,
                 PNG_FILTER_TYPE_DEFAULT);
    png_write_info(png, info);
    for (int y = 0; y < picture.height; ++y)
        png_write_row(png,
                      &pixels[static_cast<std::size_t>(y) * static_cast<std::size_t>(picture.width) * 4]);
    png_write_end(png, nullptr);
    png_destroy_write_struct(&png, &info);
}

namespace {

/// Red, green and blue on white.
std::vector<std::uint8_t> on_white(const Surface& surface) {
    const auto picture = picture_of(surface);
    std::vector<std::uint8_t> out;
    out.reserve(picture.argb.size() * 3);
    for (const auto pixel : picture.argb) {
        const auto white = 255 - (pixel >> 24);
        for (const int shift : {16, 8, 0})
            out.push_back(static_cast<std::uint8_t>(std::min(255u, (pixel >> shift & 0xFF) + white)));
    }
    return out;
}

std::string jpeg_of(const std::vector<std::uint8_t>& rgb, int width, int height, int quality) {
    struct Writing {
        jpeg_compress_struct c{};
        jpeg_error_mgr errors{};
        std::jmp_buf out{};
        unsigned char* bytes = nullptr;
        unsigned long length = 0;
    };
    const auto writing = std::make_unique<Writing>();
    auto& w = *writing;
    w.c.err = jpeg_std_error(&w.errors);
    w.c.client_data = &w;
    w.errors.error_exit = [](j_common_ptr c) { std::longjmp(static_cast<Writing*>(c->client_data)->out, 1); };
    if (setjmp(w.out)) {
        jpeg_destroy_compress(&w.c);
        std::free(w.bytes);
        throw std::bad_alloc();
    }
    jpeg_create_compress(&w.c);
    w.c.client_data = &w;
    jpeg_mem_dest(&w.c, &w.bytes, &w.length);
    w.c.image_width = static_cast<JDIMENSION>(width);
    w.c.image_height = static_cast<JDIMENSION>(height);
    w.c.input_components = 3;
    w.c.in_color_space = JCS_RGB;
    jpeg_set_defaults(&w.c);
    jpeg_set_quality(&w.c, quality, TRUE);
    jpeg_start_compress(&w.c, TRUE);
    while (w.c.next_scanline < w.c.image_height) {
        auto* row =
            const_cast<JSAMPLE*>(&rgb[std::size_t{w.c.next_scanline} * static_cast<std::size_t>(width) * 3]);
        jpeg_write_scanlines(&w.c, &row, 1);
    }
    jpeg_finish_compress(&w.c);
    jpeg_destroy_compress(&w.c);
    std::string out(reinterpret_cast<const char*>(w.bytes), w.length);
    std::free(w.bytes);
    return out;
}

}  // namespace

void write_jpeg(const Surface& surface, std::uint64_t most_bytes, const TakeFile& take) {
    const auto rgb = on_white(surface);
    const auto width = cairo_image_surface_get_width(surface.get());
    const auto height = cairo_image_surface_get_height(surface.get());
    std::string out;
    for (const int quality : {80, 55, 30}) {
        out = jpeg_of(rgb, width, height, quality);
        if (out.size() <= most_bytes) break;
    }
    take(out);
}

}  // namespace undershelf::drawing
