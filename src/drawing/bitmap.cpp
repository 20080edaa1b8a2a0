// BMP ([MS-WMF] 2.2.2, device-independent bitmaps) and ICO, which holds them or PNG pictures.

#include <algorithm>
#include <array>
#include <bit>

#include "drawing/decoders.hpp"

namespace undershelf::drawing {

namespace {

using boost::endian::little_int32_buf_t;
using boost::endian::little_uint16_buf_t;
using boost::endian::little_uint32_buf_t;

/// BITMAPINFOHEADER.
struct InfoHead {
    little_uint32_buf_t size;
    little_int32_buf_t width, height;
    little_uint16_buf_t planes, bits;
    little_uint32_buf_t compression, image_size;
    little_int32_buf_t x_pixels_per_metre, y_pixels_per_metre;
    little_uint32_buf_t colours_used, colours_important;
};
static_assert(sizeof(InfoHead) == 40);
constexpr std::uint32_t rgb = 0, rle8 = 1, rle4 = 2, bitfields = 3;
/// BITMAPCOREHEADER, of the first versions.
struct CoreHead {
    little_uint32_buf_t size;
    little_uint16_buf_t width, height, planes, bits;
};
static_assert(sizeof(CoreHead) == 12);

/// The bits of a pixel that are one channel.
struct Channel {
    std::uint32_t mask = 0;
    std::uint8_t of(std::uint32_t pixel) const {
        if (mask == 0) return 0;
        const auto shift = std::countr_zero(mask);
        const std::uint64_t most = mask >> shift;
        return static_cast<std::uint8_t>(((pixel & mask) >> shift) * 255 / most);
    }
};

class Bitmap {
  public:
    /// `at`: where its head is; `pixels_at`: where its pixels are, 0 for after its colours.
    Bitmap(Content& content, std::uint64_t at, std::uint64_t pixels_at, bool icon)
        : content_(content), pixels_at_(pixels_at), icon_(icon) {
        Cursor cursor(content, at);
        read_head(cursor);
        if (width_ <= 0 || height_ <= 0 || width_ > 0xFFFFF || height_ > 0xFFFFF)
            throw Undrawable{"its head is damaged"};
        if (pixels_at_ == 0) pixels_at_ = cursor.at();
    }

    Picture draw(std::uint32_t pixels) {
        RowScaler rows(static_cast<std::uint64_t>(width_), static_cast<std::uint64_t>(height_), pixels);
        if (compression_ == rle8 || compression_ == rle4) {
            draw_packed(rows);
        } else {
            draw_rows(rows);
        }
        return rows.finish();
    }

  private:
    void read_head(Cursor& cursor) {
        const auto start = cursor.at();
        const auto size = load<little_uint32_buf_t>(cursor.peek(4));
        std::size_t colour_bytes = 4;
        std::uint64_t colours = 0;
        if (size && size->value() == sizeof(CoreHead)) {
            const auto head = cursor.take_structure<CoreHead>();
            if (!head) throw Undrawable{"its head is cut off"};
            width_ = head->width.value();
            height_ = head->height.value();
            bits_ = head->bits.value();
            colour_bytes = 3;
        } else {
            const auto head = cursor.take_structure<InfoHead>();
            if (!head || head->size.value() < sizeof(InfoHead)) throw Undrawable{"its head is damaged"};
            width_ = head->width.value();
            const std::int64_t told = head->height.value();
            from_top_ = told < 0;
            height_ = (from_top_ ? -told : told) / (icon_ ? 2 : 1);
            bits_ = head->bits.value();
            compression_ = head->compression.value();
            colours = head->colours_used.value();
            read_masks(cursor, *head);
            cursor.go_to(std::max(cursor.at(), start + head->size.value()));
        }
        if (bits_ <= 8) read_colours(cursor, colours ? colours : std::uint64_t{1} << bits_, colour_bytes);
    }

    void read_masks(Cursor& cursor, const InfoHead& head) {
        masks_ = {Channel{0xFF0000}, Channel{0xFF00}, Channel{0xFF}, Channel{icon_ ? 0xFF000000 : 0}};
        if (bits_ == 16) masks_ = {Channel{0x7C00}, Channel{0x3E0}, Channel{0x1F}, Channel{}};
        constexpr std::uint32_t with_alpha = 56;
        if (compression_ != bitfields) return;
        for (std::size_t i = 0; i < (head.size.value() >= with_alpha ? 4 : 3); ++i) {
            const auto mask = cursor.take_structure<little_uint32_buf_t>();
            if (!mask) throw Undrawable{"its head is cut off"};
            masks_[i].mask = mask->value();
        }
    }

    void read_colours(Cursor& cursor, std::uint64_t count, std::size_t bytes_each) {
        for (std::uint64_t i = 0; i < std::min<std::uint64_t>(count, 256); ++i) {
            const auto bytes = cursor.take(bytes_each);
            if (bytes.size() < bytes_each) throw Undrawable{"its table of colours is cut off"};
            colours_[static_cast<std::size_t>(i)] = {bytes[2], bytes[1], bytes[0], 255};
        }
    }

    using Colour = std::array<std::uint8_t, 4>;

    Colour pixel(Bytes row, std::uint64_t x) const {
        if (bits_ <= 8) {
            const auto byte = row[static_cast<std::size_t>(x * bits_ / 8)];
            const auto shift = 8 - bits_ - x * bits_ % 8;
            return colours_[byte >> shift & ((1u << bits_) - 1)];
        }
        const auto at = static_cast<std::size_t>(x * bits_ / 8);
        std::uint32_t value = 0;
        for (std::size_t i = bits_ / 8; i-- > 0;) value = value << 8 | row[at + i];
        const auto alpha = masks_[3].mask ? masks_[3].of(value) : std::uint8_t{255};
        return {masks_[0].of(value), masks_[1].of(value), masks_[2].of(value), alpha};
    }

    void draw_rows(RowScaler& rows) {
        if (compression_ != rgb && compression_ != bitfields)
            throw Undrawable{"it is packed in a way that is not drawn"};
        if (bits_ != 1 && bits_ != 2 && bits_ != 4 && bits_ != 8 && bits_ != 16 && bits_ != 24 && bits_ != 32)
            throw Undrawable{"its head is damaged"};
        const auto stride = (static_cast<std::uint64_t>(width_) * bits_ + 31) / 32 * 4;
        // In icons a mask of one bit a pixel comes after the picture: set where nothing is drawn.
        const auto mask_stride = (static_cast<std::uint64_t>(width_) + 31) / 32 * 4;
        const auto mask_at = pixels_at_ + stride * static_cast<std::uint64_t>(height_);
        ByteVector row(static_cast<std::size_t>(stride)), mask(static_cast<std::size_t>(mask_stride));
        std::vector<std::uint8_t> out(static_cast<std::size_t>(width_) * 4);
        bool any_alpha = bits_ < 32;
        for (std::int64_t y = 0; y < height_; ++y) {
            const auto stored = static_cast<std::uint64_t>(from_top_ ? y : height_ - 1 - y);
            // A file that is cut off has lost its top: its last rows are the first.
            const bool there = content_.read(pixels_at_ + stored * stride, row) == row.size();
            const bool masked =
                icon_ && bits_ < 32 && content_.read(mask_at + stored * mask_stride, mask) == mask.size();
            if (!there && from_top_) return;
            for (std::uint64_t x = 0; x < static_cast<std::uint64_t>(width_); ++x) {
                auto colour = there ? pixel(row, x) : Colour{128, 128, 128, 255};
                if (masked && mask[static_cast<std::size_t>(x / 8)] >> (7 - x % 8) & 1) colour[3] = 0;
                any_alpha = any_alpha || colour[3];
                std::copy(colour.begin(), colour.end(), out.begin() + static_cast<std::ptrdiff_t>(x * 4));
            }
            rows.row(out.data());
        }
    }

    /// Runs of colours, from the last row up ([MS-WMF] 3.1.6): all of it has to be put together.
    void draw_packed(RowScaler& rows) {
        constexpr std::int64_t most = 64 << 20;
        if (width_ * height_ > most) throw Undrawable{"it is too large to be put together"};
        const auto width = static_cast<std::size_t>(width_);
        std::vector<std::uint8_t> all(width * static_cast<std::size_t>(height_), 0);
        Cursor cursor(content_, pixels_at_);
        const bool nibbles = compression_ == rle4;
        std::size_t x = 0;
        std::int64_t y = height_ - 1;
        const auto put = [&](std::uint8_t colour) {
            if (x < width && y >= 0) all[static_cast<std::size_t>(y) * width + x] = colour;
            ++x;
        };
        for (;;) {
            const auto pair = cursor.take(2);
            if (pair.size() < 2) break;
            const std::size_t count = pair[0], what = pair[1];
            if (count > 0) {
                for (std::size_t i = 0; i < count; ++i)
                    put(static_cast<std::uint8_t>(!nibbles ? what : i % 2 ? what & 15 : what >> 4));
            } else if (what == 0) {
                x = 0;
                if (--y < 0) break;
            } else if (what == 1) {
                break;
            } else if (what == 2) {
                const auto step = cursor.take(2);
                if (step.size() < 2) break;
                x += step[0];
                y -= step[1];
            } else {
                const auto length = nibbles ? (what + 1) / 2 : what;
                const auto bytes = cursor.take(length + length % 2);
                if (bytes.size() < length) break;
                for (std::size_t i = 0; i < what; ++i)
                    put(static_cast<std::uint8_t>(!nibbles ? bytes[i]
                                                  : i % 2  ? bytes[i / 2] & 15
                                                           : bytes[i / 2] >> 4));
            }
        }
        std::vector<std::uint8_t> out(width * 4);
        for (std::int64_t row = 0; row < height_; ++row) {
            for (std::size_t i = 0; i < width; ++i) {
                const auto& colour = colours_[all[static_cast<std::size_t>(row) * width + i]];
                std::copy(colour.begin(), colour.end(), out.begin() + static_cast<std::ptrdiff_t>(i * 4));
            }
            rows.row(out.data());
        }
    }

    Content& content_;
    std::uint64_t pixels_at_;
    bool icon_, from_top_ = false;
    std::int64_t width_ = 0, height_ = 0;
    unsigned bits_ = 0;
    std::uint32_t compression_ = rgb;
    std::array<Channel, 4> masks_{};
    std::array<Colour, 256> colours_{};
};

}  // namespace

Picture draw_bmp(Content& content, std::uint32_t pixels) {
    Cursor cursor(content);
    const auto pixels_at = load<little_uint32_buf_t>(cursor.peek(14), 10);
    if (!pixels_at) throw Undrawable{"it ends within its head"};
    return Bitmap(content, 14, pixels_at->value(), false).draw(pixels);
}

Picture draw_ico(Content& content, std::uint32_t pixels) {
    struct Entry {
        std::uint8_t width, height, colours, reserved;
        little_uint16_buf_t planes, bits;
        little_uint32_buf_t size, at;
    };
    static_assert(sizeof(Entry) == 16);
    Cursor cursor(content, 4);
    const auto count = cursor.take_structure<little_uint16_buf_t>();
    std::optional<Entry> best;
    const auto worth = [](const Entry& e) { return (e.width ? e.width : 256) * 1000 + e.bits.value(); };
    for (unsigned i = 0; count && i < count->value(); ++i) {
        const auto entry = cursor.take_structure<Entry>();
        if (!entry) break;
        if (!best || worth(*entry) > worth(*best)) best = entry;
    }
    if (!best) throw Undrawable{"it lists no picture"};
    PartOfContent part(content, best->at.value(), best->size.value());
    Cursor start(part);
    if (content::begins_with(start.peek(8), "\x89PNG")) return draw_png(part, pixels);
    return Bitmap(part, 0, 0, true).draw(pixels);
}

}  // namespace undershelf::drawing
