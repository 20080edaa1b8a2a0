// The merged picture at the end of a PSD or PSB file (its published file format, sections "File header" and
// "Image data"): one plane a channel, as it is or in runs of bytes a row.

#include <algorithm>
#include <array>

#include "content/picture/psd_head.hpp"
#include "drawing/decoders.hpp"

namespace undershelf::drawing {

namespace {

using boost::endian::big_uint16_buf_t;
using boost::endian::big_uint32_buf_t;
using boost::endian::big_uint64_buf_t;

constexpr unsigned grey = 1, indexed = 2, rgb = 3, cmyk = 4, duotone = 8;

class Merged {
  public:
    explicit Merged(Content& content) : content_(content) {
        Cursor at(content);
        const auto head = at.take_structure<content::PsdHead>();
        if (!head) throw Undrawable{"it ends within its head"};
        large_ = head->version.value() == 2;
        width_ = head->width.value();
        height_ = head->height.value();
        depth_ = head->depth.value();
        mode_ = head->mode.value();
        channels_ = head->channels.value();
        if (mode_ != grey && mode_ != indexed && mode_ != rgb && mode_ != cmyk && mode_ != duotone)
            throw Undrawable{"its colours are kept in a way that is not drawn"};
        if ((depth_ != 8 && depth_ != 16) || width_ > 300'000 || height_ > 300'000)
            throw Undrawable{"its colours are kept in a way that is not drawn"};
        const std::size_t needed = mode_ == rgb ? 3 : mode_ == cmyk ? 4 : 1;
        if (channels_ < needed) throw Undrawable{"its head is damaged"};
        channels_shown_ = needed;
        skip_sections(at);
        row_bytes_ = std::uint64_t{width_} * depth_ / 8;
        find_rows(at);
    }

    Picture draw(std::uint32_t pixels) {
        RowScaler rows(width_, height_, pixels);
        std::vector<std::uint8_t> out(std::size_t{width_} * 4);
        std::array<ByteVector, 4> planes;
        for (std::uint64_t y = 0; y < height_; ++y) {
            for (std::size_t c = 0; c < channels_shown_; ++c) {
                if (!read_row(c, y, planes[c])) return rows.finish();
            }
            for (std::size_t x = 0; x < width_; ++x) {
                const auto value = [&](std::size_t c) { return planes[c][x * depth_ / 8]; };
                auto* pixel = &out[x * 4];
                pixel[3] = 255;
                for (std::size_t i = 0; i < 3; ++i) {
                    if (mode_ == rgb) pixel[i] = value(i);
                    // Stored inverted, as everywhere.
                    if (mode_ == cmyk) pixel[i] = static_cast<std::uint8_t>(value(i) * value(3) / 255);
                    if (mode_ == grey || mode_ == duotone) pixel[i] = value(0);
                    if (mode_ == indexed) pixel[i] = colours_[i * 256 + value(0)];
                }
            }
            rows.row(out.data());
        }
        return rows.finish();
    }

  private:
    /// Colours, resources, layers.
    void skip_sections(Cursor& at) {
        for (int section = 0; section < 3; ++section) {
            std::uint64_t length = 0;
            if (large_ && section == 2) {
                const auto told = at.take_structure<big_uint64_buf_t>();
                length = told ? told->value() : ~0ull;
            } else {
                const auto told = at.take_structure<big_uint32_buf_t>();
                length = told ? std::uint64_t{told->value()} : ~0ull;
            }
            if (length > content_.size()) throw Undrawable{"it ends before its merged picture"};
            if (section == 0 && mode_ == indexed) {
                const auto colours = at.peek(colours_.size());
                if (colours.size() < colours_.size()) throw Undrawable{"its table of colours is cut off"};
                std::copy(colours.begin(), colours.end(), colours_.begin());
            }
            at.go_to(at.at() + length);
        }
    }

    /// Where each row of each plane is.
    void find_rows(Cursor& at) {
        const auto told = at.take_structure<big_uint16_buf_t>();
        if (!told || told->value() > 1)
            throw Undrawable{"its merged picture is missing, or packed in another way"};
        packed_ = told->value() == 1;
        first_row_ = at.at();
        if (!packed_) return;
        const auto count = channels_shown_ * std::uint64_t{height_}, all = std::uint64_t{channels_} * height_;
        const std::uint64_t each = large_ ? 4 : 2;
        if (all * each > content_.size()) throw Undrawable{"it ends before its merged picture"};
        auto place = first_row_ + all * each;
        starts_.reserve(static_cast<std::size_t>(count) + 1);
        for (std::uint64_t i = 0; i < count; ++i) {
            starts_.push_back(place);
            const auto bytes = at.take(static_cast<std::size_t>(each));
            if (bytes.size() < each) throw Undrawable{"it ends before its merged picture"};
            place += large_ ? load<big_uint32_buf_t>(bytes)->value() : load<big_uint16_buf_t>(bytes)->value();
        }
        starts_.push_back(place);
    }

    bool read_row(std::size_t channel, std::uint64_t y, ByteVector& out) {
        out.assign(static_cast<std::size_t>(row_bytes_), 0);
        const auto index = channel * std::uint64_t{height_} + y;
        if (!packed_) return content_.read(first_row_ + index * row_bytes_, out) == out.size();
        const auto from = starts_[static_cast<std::size_t>(index)],
                   to = starts_[static_cast<std::size_t>(index) + 1];
        packed_row_.resize(static_cast<std::size_t>(std::min(to - from, 2 * row_bytes_ + 256)));
        if (content_.read(from, packed_row_) < packed_row_.size()) return false;
        return unpack(out);
    }

    /// Runs: n + 1 bytes as they are, or one byte 1 - n times (TIFF 6.0, section 9, PackBits).
    bool unpack(ByteVector& out) const {
        std::size_t done = 0;
        for (std::size_t at = 0; at < packed_row_.size() && done < out.size();) {
            const auto head = static_cast<std::int8_t>(packed_row_[at++]);
            if (head == -128) continue;
            const auto count = static_cast<std::size_t>(head >= 0 ? head + 1 : 1 - head);
            const auto used = head >= 0 ? count : 1;
            if (count > out.size() - done || used > packed_row_.size() - at) return false;
            for (std::size_t i = 0; i < count; ++i) out[done++] = packed_row_[at + (head >= 0 ? i : 0)];
            at += used;
        }
        return done == out.size();
    }

    Content& content_;
    bool large_ = false, packed_ = false;
    std::uint32_t width_ = 0, height_ = 0;
    unsigned depth_ = 0, mode_ = 0, channels_ = 0;
    std::size_t channels_shown_ = 0;
    std::array<std::uint8_t, 768> colours_{};
    std::uint64_t row_bytes_ = 0, first_row_ = 0;
    std::vector<std::uint64_t> starts_;
    ByteVector packed_row_;
};

}  // namespace

Picture draw_psd(Content& content, std::uint32_t pixels) {
    return Merged(content).draw(pixels);
}

}  // namespace undershelf::drawing
