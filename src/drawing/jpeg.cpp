#include <csetjmp>
#include <cstdio>
// jpeglib.h needs stdio before it.
#include <jerror.h>
#include <jpeglib.h>

#include <algorithm>
#include <memory>

#include "drawing/decoders.hpp"

namespace undershelf::drawing {

namespace {

struct Reading {
    jpeg_decompress_struct c{};
    jpeg_error_mgr errors{};
    jpeg_source_mgr source{};
    std::jmp_buf out{};
    Content* content = nullptr;
    std::uint64_t next = 0;
    std::uint8_t buffer[64 << 10];
    JDIMENSION wrong_at = 0;  ///< the first row that is not what was written
    bool wrong = false;
};

Reading& of(j_common_ptr c) {
    return *static_cast<Reading*>(c->client_data);
}

void leave(j_common_ptr c) {
    std::longjmp(of(c).out, 1);
}

/// From some warnings on, pixels are not those that were written.
void warn(j_common_ptr c, int level) {
    auto& r = of(c);
    if (level >= 0 || r.wrong) return;
    const auto code = c->err->msg_code;
    r.wrong = code == JWRN_HIT_MARKER || code == JWRN_HUFF_BAD_CODE || code == JWRN_JPEG_EOF ||
              code == JWRN_MUST_RESYNC || code == JWRN_BOGUS_PROGRESSION;
    // A row of blocks is decoded before its first row of pixels is given out.
    if (r.wrong) r.wrong_at = r.c.output_scanline;
}

boolean fill(j_decompress_ptr c) {
    auto& r = of(reinterpret_cast<j_common_ptr>(c));
    const auto got = r.content->read(r.next, r.buffer);
    r.next += got;
    r.source.next_input_byte = r.buffer;
    r.source.bytes_in_buffer = got;
    if (got > 0) return TRUE;
    // What is missing is said once, and then a picture ends.
    WARNMS(c, JWRN_JPEG_EOF);
    r.buffer[0] = 0xFF;
    r.buffer[1] = JPEG_EOI;
    r.source.bytes_in_buffer = 2;
    return TRUE;
}

void skip(j_decompress_ptr c, long count) {
    auto& r = of(reinterpret_cast<j_common_ptr>(c));
    const auto wanted = static_cast<std::size_t>(std::max(0L, count));
    const auto here = std::min(wanted, r.source.bytes_in_buffer);
    r.source.next_input_byte += here;
    r.source.bytes_in_buffer -= here;
    r.next += wanted - here;
}

/// Adobe's CMYK is stored inverted; so are four channels of all other writers that matter.
void from_cmyk(std::uint8_t* pixels, JDIMENSION width) {
    for (JDIMENSION x = 0; x < width; ++x, pixels += 4) {
        const unsigned black = pixels[3];
        for (int i = 0; i < 3; ++i) pixels[i] = static_cast<std::uint8_t>(pixels[i] * black / 255);
        pixels[3] = 255;
    }
}

/// Decodes what is left of the picture. False where that ended early: nothing here has a destructor.
bool decode(Reading& r, RowScaler& rows, std::vector<std::uint8_t>& row) {
    if (setjmp(r.out)) return false;
    while (r.c.output_scanline < r.c.output_height) {
        auto* line = row.data();
        if (jpeg_read_scanlines(&r.c, &line, 1) != 1) return false;
        if (r.c.out_color_space == JCS_CMYK) from_cmyk(line, r.c.output_width);
        rows.row(line);
    }
    return true;
}

/// Up to where the first row can be asked for.
bool begin(Reading& r, std::uint32_t pixels) {
    if (setjmp(r.out)) return false;
    jpeg_read_header(&r.c, TRUE);
    const auto longer = std::max(r.c.image_width, r.c.image_height);
    r.c.scale_denom = 8;
    // The IDCT makes pictures of eighths.
    r.c.scale_num = 1;
    while (r.c.scale_num < 8 && std::uint64_t{longer} * r.c.scale_num < std::uint64_t{pixels} * 8)
        r.c.scale_num *= 2;
    const bool four = r.c.jpeg_color_space == JCS_CMYK || r.c.jpeg_color_space == JCS_YCCK;
    r.c.out_color_space = four ? JCS_CMYK : JCS_EXT_RGBA;
    r.c.dct_method = JDCT_IFAST;
    r.c.do_fancy_upsampling = FALSE;
    return jpeg_start_decompress(&r.c) != 0;
}

}  // namespace

Picture draw_jpeg(Content& content, std::uint32_t pixels) {
    const auto reading = std::make_unique<Reading>();
    auto& r = *reading;
    r.content = &content;
    r.c.client_data = &r;
    r.c.err = jpeg_std_error(&r.errors);
    r.errors.error_exit = leave;
    r.errors.emit_message = warn;
    jpeg_create_decompress(&r.c);
    const std::unique_ptr<jpeg_decompress_struct, decltype(&jpeg_destroy_decompress)> destroyed(
        &r.c, jpeg_destroy_decompress);
    r.c.client_data = &r;
    r.source.init_source = [](j_decompress_ptr) {};
    r.source.fill_input_buffer = fill;
    r.source.skip_input_data = skip;
    r.source.resync_to_restart = jpeg_resync_to_restart;
    r.source.term_source = [](j_decompress_ptr) {};
    r.c.src = &r.source;
    if (!begin(r, pixels)) throw Undrawable{"its head, or a table that it is decoded by, is damaged"};
    RowScaler rows(r.c.output_width, r.c.output_height, pixels);
    std::vector<std::uint8_t> row(std::size_t{r.c.output_width} * 4);
    const bool whole = decode(r, rows, row);
    // All of a progressive picture is there once its first scan is; what is missing is detail.
    const bool coarse = r.wrong && jpeg_has_multiple_scans(&r.c) && r.c.input_scan_number > 1;
    const auto height = r.c.output_height;
    const auto full_width = r.c.image_width, full_height = r.c.image_height;
    auto out = rows.finish();
    out.full_width = full_width;
    out.full_height = full_height;
    if (coarse) {
        out.why = "details of it are missing";
        out.shows = Shows::part;
    } else if (r.wrong || !whole) {
        const auto holds = r.wrong ? static_cast<double>(r.wrong_at) / height : out.share;
        out.share = std::min(out.share, holds);
    }
    return out;
}

}  // namespace undershelf::drawing
