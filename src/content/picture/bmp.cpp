// BMP ([MS-WMF] 2.2.2 and the file head before it): the head tells the file's length, where the pixels begin
// and how many there are. Nothing covers them.

#include <cstdlib>

#include "content/format.hpp"
#include "content/list.hpp"
#include "content/media/media_units.hpp"
#include "content/picture/picture_details.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;
using boost::endian::little_int32_buf_t;
using boost::endian::little_uint16_buf_t;
using boost::endian::little_uint32_buf_t;

struct Head {
    char type[2];
    little_uint32_buf_t size;
    little_uint16_buf_t reserved[2];
    little_uint32_buf_t pixels;  ///< offset
    little_uint32_buf_t info_size;
    little_int32_buf_t width, height;
    little_uint16_buf_t planes, bits;
    little_uint32_buf_t compression, image_size;
};
static_assert(sizeof(Head) == 38);

/// Bytes of the pixels, in rows of whole 32 bits; 0 where they are packed and say so themselves.
std::uint64_t pixel_bytes(const Head& h) {
    constexpr std::uint32_t plain = 0, masks = 3, alpha_masks = 6;
    const auto kind = h.compression.value();
    if (kind != plain && kind != masks && kind != alpha_masks) return h.image_size.value();
    const auto width = static_cast<std::uint64_t>(std::abs(std::int64_t{h.width.value()}));
    const auto height = static_cast<std::uint64_t>(std::abs(std::int64_t{h.height.value()}));
    return (width * h.bits.value() + 31) / 32 * 4 * height;
}

class Bmp final : public FormatReader {
  public:
    Recognised recognise(Bytes first) const override {
        const auto h = load<Head>(first);
        if (!h || !begins_with(first, "BM"sv)) return {};
        const auto bits = h->bits.value();
        const bool sane =
            h->planes.value() == 1 && h->info_size.value() >= 40 && h->info_size.value() <= 256 &&
            (bits == 1 || bits == 4 || bits == 8 || bits == 16 || bits == 24 || bits == 32 || bits == 0);
        // Its oldest kind has a head of 12 bytes and other fields in it.
        return {"bmp", sane ? 0.95 : h->info_size.value() == 12 ? 0.8 : 0.0};
    }

    ContentDetails details(Content& content) const override { return bmp_details(content); }
    Check check(Content& content, const CheckLimits&) const override {
        Check out;
        out.format = "bmp";
        out.strength = Strength::weak;
        Cursor at(content);
        const auto h = at.take_structure<Head>();
        if (!h) return out.fails(0, "it ends within its head");
        const bool oldest = h->info_size.value() == 12;
        const auto end = oldest ? std::uint64_t{h->size.value()} : h->pixels.value() + pixel_bytes(*h);
        // Writers differ in whether the length counts filling after the pixels.
        const auto told = std::uint64_t{h->size.value()};
        const auto whole = told >= end && told <= end + 4096 && told <= content.size() ? told : end;
        if (h->pixels.value() < 26 || whole > content.size()) {
            out.cut = whole > content.size();
            return out.fails(content.size(), "it ends before its last pixels");
        }
        return readable(content, 0, whole) ? out.ends(whole) : out.fails(0, "bytes of it are missing");
    }
};

constexpr Format rows[] = {
    {.word = "bmp",
     .name = "BMP picture",
     .kind = Kind::picture,
     .extensions = " bmp ",
     .shared = " bmp ",
     .family = "bmp",
     .strength = Strength::weak,
     .delay = 64 * KiB,
     .marks = "BM"sv},
};

}  // namespace

FormatRows bmp_formats() {
    static const Bmp reader;
    return {rows, &reader};
}

}  // namespace undershelf::content
