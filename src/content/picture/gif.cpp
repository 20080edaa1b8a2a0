// GIF (87a, 89a): a screen descriptor, then images and extensions, whose data are in sub-blocks of up to
// 255 bytes with an empty one at the end, then a trailer. Images are LZW codes, which are followed to see
// that they fill the image.

#include <array>

#include "content/format.hpp"
#include "content/list.hpp"
#include "content/picture/picture_details.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;

struct ScreenDescriptor {
    char signature[6];
    boost::endian::little_uint16_buf_t width, height;
    std::uint8_t packed, background, aspect;
};
struct ImageDescriptor {
    boost::endian::little_uint16_buf_t left, top, width, height;
    std::uint8_t packed;
};

/// Counts what LZW codes (GIF89a, appendix F) stand for, without making it: of each code its length is
/// enough.
class LzwCounter {
  public:
    explicit LzwCounter(unsigned root_bits) : root_bits_(root_bits) { clear(); }

    enum class State : std::uint8_t { more, ended, broken };
    State add(std::uint8_t byte) {
        bits_ |= std::uint32_t{byte} << bit_count_;
        bit_count_ += 8;
        while (state_ == State::more && bit_count_ >= width_) {
            const auto code = bits_ & ((1u << width_) - 1);
            bits_ >>= width_;
            bit_count_ -= width_;
            take(code);
        }
        return state_;
    }
    std::uint64_t pixels() const { return pixels_; }
    State state() const { return state_; }

  private:
    void clear() {
        width_ = root_bits_ + 1;
        next_ = (1u << root_bits_) + 2;
        last_.reset();
    }
    void take(std::uint32_t code) {
        const auto clear_code = 1u << root_bits_;
        if (code == clear_code) return clear();
        if (code == clear_code + 1) {
            state_ = State::ended;
            return;
        }
        const auto length_of = [&](std::uint32_t c) { return c < clear_code ? 1u : lengths_[c]; };
        // Only the code that is about to be made may be used before it is.
        if (code > next_ || (code == next_ && !last_) || code >= lengths_.size()) {
            state_ = State::broken;
            return;
        }
        const auto length = code < next_ ? length_of(code) : length_of(*last_) + 1;
        if (last_ && next_ < lengths_.size()) {
            lengths_[next_++] = static_cast<std::uint32_t>(length_of(*last_) + 1);
            if (next_ == 1u << width_ && width_ < 12) ++width_;
        }
        last_ = code;
        pixels_ += length;
    }

    unsigned root_bits_, width_ = 0;
    std::uint32_t bits_ = 0;
    unsigned bit_count_ = 0;
    std::uint32_t next_ = 0;
    std::optional<std::uint32_t> last_;
    std::array<std::uint32_t, 4096> lengths_{};
    std::uint64_t pixels_ = 0;
    State state_ = State::more;
};

class Gif final : public FormatReader {
  public:
    bool all_our_own() const override { return true; }
    Recognised recognise(Bytes first) const override {
        return {"gif", begins_with(first, "GIF87a"sv) || begins_with(first, "GIF89a"sv) ? 1.0 : 0.0};
    }

    ContentDetails details(Content& content) const override { return gif_details(content); }
    Check check(Content& content, const CheckLimits&) const override {
        Check out;
        out.format = "gif";
        out.strength = Strength::fair;
        Cursor at(content);
        const auto screen = at.take_structure<ScreenDescriptor>();
        if (!screen) return out.fails(0, "it ends within its head");
        if (!skip_colors(at, screen->packed)) return out.fails(at.at(), "it ends within its colours");
        for (bool images = false;;) {
            const auto start = at.at();
            const auto mark = at.take(1);
            if (mark.empty()) return out.fails(start, "it ends before its trailer");
            if (mark[0] == 0x3B && images) return out.ends(at.at());
            if (mark[0] == 0x21) {
                at.take(1);
                if (!skip_blocks(at)) return out.fails(start, "an extension is cut off");
            } else if (mark[0] == 0x2C) {
                images = true;
                if (!read_image(at, out)) return out;
            } else {
                return out.fails(start, "neither an image nor its trailer is where one should be");
            }
        }
    }

  private:
    static bool skip_colors(Cursor& at, std::uint8_t packed) {
        const std::size_t bytes = packed & 0x80 ? 3u << ((packed & 7) + 1) : 0;
        return at.take(bytes).size() == bytes;
    }
    static bool skip_blocks(Cursor& at) {
        for (;;) {
            const auto length = at.take(1);
            if (length.empty()) return false;
            const std::size_t n = length[0];
            if (n == 0) return true;
            if (at.take(n).size() < n) return false;
        }
    }

    static bool read_image(Cursor& at, Check& out) {
        const auto start = at.at();
        const auto cut = [&] {
            out.fails(at.at(), "an image is cut off");
            return false;
        };
        const auto image = at.take_structure<ImageDescriptor>();
        if (!image || !skip_colors(at, image->packed)) return cut();
        const auto root_bits = at.take(1);
        if (root_bits.empty()) return cut();
        if (root_bits[0] < 2 || root_bits[0] > 8) {
            out.fails(start, "an image's codes cannot be");
            return false;
        }
        LzwCounter codes(root_bits[0]);
        const auto wanted = std::uint64_t{image->width.value()} * image->height.value();
        for (;;) {
            const auto block_at = at.at();
            const auto length = at.take(1);
            if (length.empty()) return cut();
            const std::size_t n = length[0];
            if (n == 0) break;
            const auto block = at.take(n);
            if (block.size() < n) return cut();
            // What is after the end of the codes is padding.
            for (const auto byte : block) {
                if (codes.state() == LzwCounter::State::more) codes.add(byte);
            }
            if (codes.state() == LzwCounter::State::broken || codes.pixels() > wanted) {
                out.fails(block_at, "the codes of an image make no sense");
                return false;
            }
        }
        if (codes.pixels() != wanted) {
            out.fails(start, "an image has fewer pixels than its head says");
            return false;
        }
        return true;
    }
};

constexpr Format rows[] = {
    {.word = "gif",
     .name = "GIF picture",
     .kind = Kind::picture,
     .extensions = " gif ",
     .family = "gif",
     .strength = Strength::fair,
     .delay = 64 * KiB,
     .filling = Filling::dense,
     .marks = "GI"sv},
};

}  // namespace

FormatRows gif_formats() {
    static const Gif reader;
    return {rows, &reader};
}

}  // namespace undershelf::content
