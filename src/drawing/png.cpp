#include <png.h>

#include <algorithm>
#include <csetjmp>
#include <memory>

#include "drawing/decoders.hpp"

namespace undershelf::drawing {

namespace {

constexpr std::uint64_t most_interlaced = 160 << 20;  ///< bytes: all of such a picture has to be in memory

struct Reading {
    png_structp png = nullptr;
    png_infop info = nullptr;
    Content* content = nullptr;
    std::uint64_t next = 0;
    std::unique_ptr<RowScaler> rows;
    std::vector<std::uint8_t> row, all;
    png_uint_32 width = 0, height = 0;
    int passes = 1;
    double share = 0;  ///< of an interlaced picture
};

void read(png_structp png, png_bytep out, std::size_t length) {
    auto& r = *static_cast<Reading*>(png_get_io_ptr(png));
    const auto got = r.content->read(r.next, {out, length});
    r.next += got;
    if (got < length) png_error(png, "cut");
}

/// Whatever it is stored as: red, green, blue and alpha of eight bits.
void as_rgba(Reading& r) {
    png_set_expand(r.png);
    png_set_scale_16(r.png);
    png_set_gray_to_rgb(r.png);
    png_set_add_alpha(r.png, 0xFF, PNG_FILLER_AFTER);
    r.passes = png_set_interlace_handling(r.png);
    png_read_update_info(r.png, r.info);
}

/// Nothing that is made after the jump's place is set has a destructor.
bool read_head(Reading& r) {
    if (setjmp(png_jmpbuf(r.png))) return false;
    png_read_info(r.png, r.info);
    r.width = png_get_image_width(r.png, r.info);
    r.height = png_get_image_height(r.png, r.info);
    as_rgba(r);
    return true;
}

bool read_rows(Reading& r) {
    if (setjmp(png_jmpbuf(r.png))) return false;
    for (png_uint_32 y = 0; y < r.height; ++y) {
        png_read_row(r.png, r.row.data(), nullptr);
        r.rows->row(r.row.data());
    }
    return true;
}

/// Seven passes, of which each fills more of it.
bool read_interlaced(Reading& r) {
    if (setjmp(png_jmpbuf(r.png))) return false;
    for (int pass = 0; pass < r.passes; ++pass) {
        for (png_uint_32 y = 0; y < r.height; ++y) {
            png_read_row(r.png, nullptr, &r.all[std::size_t{y} * r.width * 4]);
            if (pass == r.passes - 1) r.share = (y + 1.0) / r.height;
        }
    }
    return true;
}

}  // namespace

Picture draw_png(Content& content, std::uint32_t pixels) {
    Reading r;
    r.content = &content;
    // Warnings, and errors, which leave by the jump, are told to nobody.
    r.png = png_create_read_struct(
        PNG_LIBPNG_VER_STRING, nullptr, [](png_structp png, png_const_charp) { png_longjmp(png, 1); },
        [](png_structp, png_const_charp) {});
    if (!r.png) throw std::bad_alloc();
    struct Destroyed {
        Reading& r;
        ~Destroyed() { png_destroy_read_struct(&r.png, &r.info, nullptr); }
    } const destroyed{r};
    r.info = png_create_info_struct(r.png);
    if (!r.info) throw std::bad_alloc();
    png_set_read_fn(r.png, &r, read);
    png_set_user_limits(r.png, 0x7FFFFFFF, 0x7FFFFFFF);
    png_set_crc_action(r.png, PNG_CRC_DEFAULT, PNG_CRC_WARN_DISCARD);
    if (!read_head(r)) throw Undrawable{"its head is damaged"};
    r.rows = std::make_unique<RowScaler>(r.width, r.height, pixels);
    if (r.passes == 1) {
        r.row.resize(std::size_t{r.width} * 4);
        read_rows(r);
        return r.rows->finish();
    }
    const auto bytes = std::uint64_t{r.width} * r.height * 4;
    if (bytes > most_interlaced) throw Undrawable{"it is interlaced, and too large to be put together"};
    r.all.resize(static_cast<std::size_t>(bytes), 0);
    const bool whole = read_interlaced(r);
    for (png_uint_32 y = 0; y < r.height; ++y) r.rows->row(&r.all[std::size_t{y} * r.width * 4]);
    auto out = r.rows->finish();
    if (!whole) out.share = r.share;
    return out;
}

}  // namespace undershelf::drawing
