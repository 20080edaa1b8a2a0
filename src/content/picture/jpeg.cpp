// JPEG (ITU-T T.81): marker segments, then scans of entropy-coded data, then an end mark. libjpeg-turbo
// decodes all of it, at an eighth of its size; a picture whose data do not fill it, or go on after it, is
// broken. Thumbnails are inside segments, so that their ends are none.

#include <algorithm>
#include <csetjmp>
#include <cstdio>
// jpeglib.h needs stdio before it.
#include <jerror.h>
#include <jpeglib.h>

#include <memory>
#include <vector>

#include "content/density.hpp"
#include "content/format.hpp"
#include "content/list.hpp"
#include "content/memory.hpp"
#include "content/picture/exif.hpp"
#include "content/picture/jpeg.hpp"
#include "content/picture/picture_details.hpp"
#include "content/titles.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;

/// Its tables and rows of a picture; what is kept as a whole is claimed beside it.
constexpr long other_memory = 64l << 20;

/// What libjpeg calls back into. Errors leave it by a long jump, over frames of C alone.
struct Reading {
    jpeg_source_mgr source{};  // the first members: libjpeg gives back pointers to them
    jpeg_error_mgr errors{};
    std::jmp_buf out;
    Content* content = nullptr;
    MemoryClaim memory;
    std::uint64_t next = 0;  ///< offset in the content after what is in `buffer`
    JOCTET buffer[64 << 10];
    bool ended = false;
    bool too_much = false;
};

Reading& reading_of(j_decompress_ptr c) {
    return *reinterpret_cast<Reading*>(c->src);
}
Reading& reading_of(j_common_ptr c) {
    return reading_of(reinterpret_cast<j_decompress_ptr>(c));
}

void leave(j_common_ptr c) {
    auto& r = reading_of(c);
    r.too_much = c->err->msg_code == JERR_OUT_OF_MEMORY || c->err->msg_code == JERR_NO_BACKING_STORE;
    std::longjmp(r.out, 1);
}

/// Warnings are about data that no sound file has, but for these.
void warn(j_common_ptr c, int level) {
    if (level >= 0) return;
    const auto code = c->err->msg_code;
    if (code == JWRN_JFIF_MAJOR || code == JWRN_ADOBE_XFORM || code == JWRN_BOGUS_PROGRESSION) return;
    leave(c);
}

boolean fill(j_decompress_ptr c) {
    auto& r = reading_of(c);
    const auto got = r.ended ? 0 : r.content->read(r.next, {r.buffer, sizeof r.buffer});
    if (got == 0) {
        r.ended = true;
        std::longjmp(r.out, 1);
    }
    r.next += got;
    r.source.next_input_byte = r.buffer;
    r.source.bytes_in_buffer = got;
    return TRUE;
}

void skip(j_decompress_ptr c, long count) {
    auto& r = reading_of(c);
    for (auto left = static_cast<std::size_t>(std::max(0l, count)); left > 0;) {
        if (r.source.bytes_in_buffer == 0) fill(c);
        const auto n = std::min(left, r.source.bytes_in_buffer);
        r.source.next_input_byte += n;
        r.source.bytes_in_buffer -= n;
        left -= n;
    }
}

/// Of a picture in several scans all coefficients are kept, 64 of two bytes a block.
void claim_coefficients(jpeg_decompress_struct& c, MemoryClaim& memory) {
    if (!jpeg_has_multiple_scans(&c)) return;
    std::uint64_t bytes = 0;
    for (int i = 0; i < c.num_components; ++i) {
        const auto& component = c.comp_info[i];
        // Up to whole units of all components.
        const auto wide = std::uint64_t{component.width_in_blocks} + 4,
                   high = std::uint64_t{component.height_in_blocks} + 4;
        bytes += wide * high * sizeof(JBLOCK);
    }
    memory.grow(bytes);
    c.mem->max_memory_to_use = static_cast<long>(bytes) + other_memory;
}

/// Decodes everything. False where it went wrong.
bool decode(jpeg_decompress_struct& c, Reading& r, JSAMPARRAY rows) {
    if (setjmp(r.out)) return false;
    jpeg_read_header(&c, TRUE);
    claim_coefficients(c, r.memory);
    c.scale_num = 1;
    c.scale_denom = 8;
    c.dct_method = JDCT_IFAST;
    c.do_fancy_upsampling = FALSE;
    c.out_color_space = c.jpeg_color_space;
    jpeg_start_decompress(&c);
    while (c.output_scanline < c.output_height) jpeg_read_scanlines(&c, rows, 1);
    jpeg_finish_decompress(&c);
    return true;
}

/// Of what is before the picture's data nothing is decoded but the tables.
Strength strength_of(Content& content, std::uint64_t end) {
    Density density;
    Cursor at(content, 2);
    constexpr std::uint8_t scan = 0xDA, first_application = 0xE0, comment = 0xFE;
    while (at.at() < end) {
        const auto head = at.peek(4);
        if (head.size() < 4 || head[0] != 0xFF || head[1] == scan) break;
        if (head[1] == 0xFF) {  // filling
            at.take(1);
            continue;
        }
        const auto length = 2 + std::uint64_t{load<boost::endian::big_uint16_buf_t>(head, 2)->value()};
        const bool unseen = head[1] == comment || (head[1] & 0xF0) == first_application;
        unseen ? density.add(length) : density.add_decoded(length);
        at.go_to(at.at() + length);
    }
    density.add_decoded(end - std::min(end, at.at()));
    return density.strength();
}

void jpeg_exif(Content& content, const UseExif& use) {
    for (std::uint64_t at = 2; at < most_tags;) {
        const auto head = tag_bytes(content, at, 10);
        if (head.size() < 10 || head[0] != 0xFF || head[1] < 0xE0) return;
        const std::uint64_t length = load<boost::endian::big_uint16_buf_t>(head, 2)->value();
        if (head[1] == 0xE1 && begins_with(Bytes(head).subspan(4), "Exif\0\0"sv) && length > 8) {
            PartOfContent tiff(content, at + 10, length - 8);
            use(tiff);
            return;
        }
        at += 2 + length;
    }
}

class Jpeg final : public FormatReader {
  public:
    Recognised recognise(Bytes first) const override {
        if (!begins_with(first, "\xff\xd8\xff"sv) || first.size() < 4) return {};
        if (first.size() > 10 &&
            (begins_with(first.subspan(6), "JFIF\0"sv) || begins_with(first.subspan(6), "Exif\0"sv)))
            return {"jpeg", 1.0};
        // After the start is another segment: of an application, a table, a frame, a comment; and
        // another one after that, where it is seen.
        const auto kind = first[3];
        if (kind < 0xC0 || kind == 0xD8 || kind == 0xD9 || kind == 0xFF) return {};
        const auto length = load<boost::endian::big_uint16_buf_t>(first, 4);
        const std::size_t next = length ? 4ull + length->value() : first.size();
        return {"jpeg", next < first.size() && first[next] == 0xFF ? 0.95 : sure_enough};
    }

    std::string title(Content& content) const override { return exif_title_by(*this, content); }
    void exif(Content& content, const UseExif& use) const override { jpeg_exif(content, use); }
    InnerDates dates(Content& content) const override { return exif_dates_by(*this, content); }
    ContentDetails details(Content& content) const override {
        return with_camera(jpeg_details(content), *this, content);
    }
    Check check(Content& content, const CheckLimits&) const override {
        Check out;
        out.format = "jpeg";
        out.strength = Strength::fair;
        const auto reading = std::make_unique<Reading>();
        auto& r = *reading;
        r.content = &content;
        jpeg_decompress_struct c{};
        c.err = jpeg_std_error(&r.errors);
        r.errors.error_exit = leave;
        r.errors.emit_message = warn;
        jpeg_create_decompress(&c);
        const std::unique_ptr<jpeg_decompress_struct, decltype(&jpeg_destroy_decompress)> destroyed(
            &c, jpeg_destroy_decompress);
        c.mem->max_memory_to_use = other_memory;
        r.source.init_source = [](j_decompress_ptr) {};
        r.source.fill_input_buffer = fill;
        r.source.skip_input_data = skip;
        r.source.resync_to_restart = jpeg_resync_to_restart;
        r.source.term_source = [](j_decompress_ptr) {};
        c.src = &r.source;
        // A row of the widest picture there can be, in four colours, at an eighth.
        std::vector<JSAMPLE> row((65536 / 8 + 1) * 4);
        JSAMPROW rows[] = {row.data()};
        const bool whole = decode(c, r, rows);
        const auto at = r.next - r.source.bytes_in_buffer;
        if (whole) {
            out.strength = strength_of(content, at);
            return out.ends(at);
        }
        out.finished = !r.too_much;
        return out.fails(at, r.ended ? "its picture data end early" : "its picture data make no sense");
    }
};

constexpr Format rows[] = {
    {.word = "jpeg",
     .name = "JPEG picture",
     .kind = Kind::picture,
     .extensions = " jpg jpeg jpe ",
     .family = "jpeg",
     .strength = Strength::fair,
     .delay = 64 * KiB,
     .filling = Filling::dense,
     .marks = "\xff\xd8"sv},
};

}  // namespace

const FormatReader& jpeg() {
    static const Jpeg reader;
    return reader;
}

FormatRows jpeg_formats() {
    return {rows, &jpeg()};
}

}  // namespace undershelf::content
