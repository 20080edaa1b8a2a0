#include "content/picture/picture_details.hpp"

#include <fmt/format.h>

#include <array>

#include "content/media/iso_boxes.hpp"
#include "content/numbers.hpp"
#include "content/picture/tiff_directory.hpp"
#include "content/picture/tiff_tags.hpp"
#include "content/titles.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;
using boost::endian::big_uint16_buf_t;
using boost::endian::big_uint32_buf_t;
using boost::endian::little_int32_buf_t;
using boost::endian::little_uint16_buf_t;
using boost::endian::little_uint32_buf_t;

ContentDetails with_pixels(std::uint64_t columns, std::uint64_t rows) {
    ContentDetails out;
    out.pixels = pixels_in_words(columns, rows);
    return out;
}

/// 24 bits, little-endian.
std::uint64_t number_24(Bytes bytes, std::size_t at) {
    return number_at<little_uint16_buf_t>(bytes, at) |
           (bytes.size() > at + 2 ? std::uint64_t{bytes[at + 2]} << 16 : 0);
}

/// The maker is left out where the model begins with it, as many do.
std::string camera_of(const std::string& maker, const std::string& model) {
    const auto first = maker.substr(0, maker.find(' '));
    return as_title(first.empty() || model.starts_with(first) ? model : maker + " " + model);
}

std::string camera_in(Content& tiff, const TiffFile& file) {
    for (const auto& d : file.directories()) {
        const auto text = [&](std::uint16_t tag) {
            const auto* entry = d.entry(tag);
            auto out =
                entry ? from_latin_1(tag_bytes(tiff, entry->at, std::min<std::uint64_t>(entry->size, 64)))
                      : std::string();
            out.resize(std::min(out.find('\0'), out.size()));
            return as_title(out);
        };
        if (const auto model = text(tag::model); !model.empty()) return camera_of(text(tag::make), model);
    }
    return {};
}

}  // namespace

std::string pixels_in_words(std::uint64_t columns, std::uint64_t rows) {
    return columns && rows ? fmt::format("{}x{}", columns, rows) : std::string();
}

ContentDetails png_details(Content& content) {
    const auto head = tag_bytes(content, 0, 24);
    return with_pixels(number_at<big_uint32_buf_t>(head, 16), number_at<big_uint32_buf_t>(head, 20));
}

ContentDetails gif_details(Content& content) {
    const auto head = tag_bytes(content, 0, 10);
    return with_pixels(number_at<little_uint16_buf_t>(head, 6), number_at<little_uint16_buf_t>(head, 8));
}

ContentDetails bmp_details(Content& content) {
    constexpr std::uint64_t core_header = 12;  // bytes
    const auto head = tag_bytes(content, 0, 26);
    if (number_at<little_uint32_buf_t>(head, 14) == core_header)
        return with_pixels(number_at<little_uint16_buf_t>(head, 18),
                           number_at<little_uint16_buf_t>(head, 20));
    const auto side = [&](std::size_t at) -> std::uint64_t {
        const auto n = load<little_int32_buf_t>(head, at);
        return n ? static_cast<std::uint64_t>(std::abs(std::int64_t{n->value()})) : 0;
    };
    return with_pixels(side(18), side(22));
}

ContentDetails psd_details(Content& content) {
    const auto head = tag_bytes(content, 0, 22);
    return with_pixels(number_at<big_uint32_buf_t>(head, 18), number_at<big_uint32_buf_t>(head, 14));
}

ContentDetails webp_details(Content& content) {
    const auto head = tag_bytes(content, 12, 30);
    const auto body = Bytes(head).subspan(std::min<std::size_t>(head.size(), 8));
    if (begins_with(head, "VP8X"sv)) return with_pixels(number_24(body, 4) + 1, number_24(body, 7) + 1);
    if (begins_with(head, "VP8 "sv))  // after the frame tag and the start code: RFC 6386, 9.1
        return with_pixels(number_at<little_uint16_buf_t>(body, 6) & 0x3FFF,
                           number_at<little_uint16_buf_t>(body, 8) & 0x3FFF);
    if (begins_with(head, "VP8L"sv)) {
        const auto bits = number_at<little_uint32_buf_t>(body, 1);
        return with_pixels((bits & 0x3FFF) + 1, (bits >> 14 & 0x3FFF) + 1);
    }
    return {};
}

ContentDetails jpeg_details(Content& content) {
    constexpr int most_segments = 4096;
    std::uint64_t at = 2;
    for (int segments = 0; segments < most_segments; ++segments) {
        const auto head = tag_bytes(content, at, 9);
        if (head.size() < 9 || head[0] != 0xFF) return {};
        const auto marker = head[1];
        if (marker == 0xFF) {  // filling
            ++at;
            continue;
        }
        // Start of frame: all but the tables DHT, JPG and DAC among them.
        if (marker >= 0xC0 && marker <= 0xCF && marker != 0xC4 && marker != 0xC8 && marker != 0xCC)
            return with_pixels(number_at<big_uint16_buf_t>(head, 7), number_at<big_uint16_buf_t>(head, 5));
        at += 2 + number_at<big_uint16_buf_t>(head, 2);
    }
    return {};
}

ContentDetails tiff_details(Content& tiff) {
    TiffFile file(tiff);
    ContentDetails out;
    std::uint64_t most = 0;
    try {
        file.read();
    } catch (const TiffWrong&) {
        // What could be read before is as good.
    }
    for (const auto& d : file.directories()) {
        try {
            const auto side = [&](std::uint16_t tag) {
                const auto* entry = d.entry(tag);
                return entry && entry->count == 1 ? file.number(d, tag) : 0;
            };
            const auto columns = side(tag::image_width), rows = side(tag::image_length);
            if (columns > UINT32_MAX || rows > UINT32_MAX || columns * rows <= most) continue;
            most = columns * rows;
            out.pixels = pixels_in_words(columns, rows);
        } catch (const TiffWrong&) {
            continue;
        }
    }
    out.camera = camera_in(tiff, file);
    return out;
}

ContentDetails heif_details(Bytes properties) {
    ContentDetails out;
    std::uint64_t most = 0;
    for (const auto& box : boxes_in(properties, 0).boxes) {
        if (box.type != box_type("ispe")) continue;
        const auto columns = number_at<big_uint32_buf_t>(box.body, 4),
                   rows = number_at<big_uint32_buf_t>(box.body, 8);
        if (columns * rows <= most) continue;
        most = columns * rows;
        out.pixels = pixels_in_words(columns, rows);
    }
    return out;
}

ContentDetails with_camera(ContentDetails details, const FormatReader& reader, Content& content) {
    reader.exif(content, [&](Content& tiff) { details.camera = tiff_details(tiff).camera; });
    return details;
}

}  // namespace undershelf::content
