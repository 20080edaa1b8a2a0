// Photoshop pictures (Adobe Photoshop File Formats Specification): five sections; the last, the picture as a
// whole, is packed in rows whose lengths are told (PackBits), or plain.

#include <algorithm>
#include <array>

#include "content/density.hpp"
#include "content/format.hpp"
#include "content/list.hpp"
#include "content/media/media_units.hpp"
#include "content/picture/picture_details.hpp"
#include "content/picture/psd_head.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;
using boost::endian::big_uint16_buf_t;
using boost::endian::big_uint32_buf_t;

/// PackBits: do `packed` bytes make up a row of exactly `wanted`?
bool row_holds(Bytes packed, std::uint64_t wanted) {
    std::uint64_t made = 0;
    for (std::size_t i = 0; i < packed.size();) {
        const auto code = packed[i++];
        constexpr std::uint8_t nothing = 128;
        if (code == nothing) continue;
        const std::size_t copied = code < nothing ? code + 1u : 1;
        made += code < nothing ? code + 1u : 257u - code;
        if (copied > packed.size() - i) return false;
        i += copied;
    }
    return made == wanted;
}

class PsdCheck {
  public:
    explicit PsdCheck(Content& content) : content_(content), at_(content) {}

    Check run() {
        out_.format = "psd";
        out_.strength = Strength::weak;
        const auto head = at_.take_structure<PsdHead>();
        if (!head) return out_.fails(0, "it ends within its head");
        const bool large = head->version.value() == 2;
        if (!skip(4) || !resources() || !skip(large ? 8 : 4)) return out_;
        const bool held = picture(*head, large);
        out_.strength = density_.strength();
        return held ? out_.ends(at_.at()) : out_;
    }

  private:
    bool fails(std::uint64_t at, const char* why) {
        out_.fails(std::min(at, content_.size()), why);
        return false;
    }

    std::optional<std::uint64_t> length(std::size_t bytes) {
        const auto raw = at_.take(bytes);
        if (raw.size() < bytes) return std::nullopt;
        std::uint64_t out = 0;
        for (const auto b : raw) out = out << 8 | b;
        return out;
    }

    /// A section that begins with its length.
    bool skip(std::size_t length_bytes) {
        const auto start = at_.at();
        const auto size = length(length_bytes);
        if (!size || *size > content_.size() - at_.at()) return fails(start, "it ends before its picture");
        density_.add_unseen(*size);
        if (!readable(content_, at_.at(), *size)) return fails(start, "bytes of it are missing");
        at_.go_to(at_.at() + *size);
        return true;
    }

    bool resources() {
        const auto start = at_.at();
        const auto size = length(4);
        if (!size || *size > content_.size() - at_.at()) return fails(start, "it ends before its picture");
        const auto end = at_.at() + *size;
        while (at_.at() + 12 <= end) {
            const auto block = at_.at();
            // Blocks of Photoshop and of programs that extend it.
            const auto mark = at_.take(6);
            const bool known = begins_with(mark, "8BIM"sv) || begins_with(mark, "MeSa"sv) ||
                               begins_with(mark, "AgHg"sv) || begins_with(mark, "PHUT"sv) ||
                               begins_with(mark, "DCSR"sv);
            const auto name = at_.take(1);
            if (!known || name.empty())
                return fails(block, "no block of its resources is where one should be");
            at_.go_to(at_.at() + name[0] + (name[0] + 1) % 2);
            const auto data = length(4);
            if (!data || *data > end - std::min(end, at_.at()))
                return fails(block, "a block of its resources goes on after their end");
            if (!readable(content_, at_.at(), *data)) return fails(block, "bytes of it are missing");
            at_.go_to(at_.at() + *data + *data % 2);
            density_.add(at_.at() - block);
        }
        at_.go_to(end);
        return true;
    }

    bool picture(const PsdHead& head, bool large) {
        const auto start = at_.at();
        const auto packing = length(2);
        const std::uint64_t rows = std::uint64_t{head.height.value()} * head.channels.value();
        const std::uint64_t row = (std::uint64_t{head.width.value()} * head.depth.value() + 7) / 8;
        if (!packing) return fails(start, "it ends before its picture");
        if (*packing == 0) {
            if (row > 0 && rows > (content_.size() - at_.at()) / row)
                return fails(content_.size(), "it ends before its last row");
            density_.add_unseen(rows * row);
            if (!readable(content_, at_.at(), rows * row)) return fails(start, "bytes of it are missing");
            at_.go_to(at_.at() + rows * row);
            return true;
        }
        if (*packing != 1) return fails(start, "its picture is packed in no known way");
        return packed_rows(start, rows, row, large ? 4 : 2);
    }

    bool packed_rows(std::uint64_t start, std::uint64_t rows, std::uint64_t row, std::size_t width) {
        const auto table = at_.at();
        if (rows > (content_.size() - table) / width) return fails(start, "the table of its rows is cut off");
        Cursor lengths(content_, table);
        at_.go_to(table + rows * width);
        for (std::uint64_t i = 0; i < rows; ++i) {
            std::uint64_t size = 0;
            const auto raw = lengths.take(width);
            if (raw.size() < width) return fails(start, "the table of its rows is cut off");
            for (const auto b : raw) size = size << 8 | b;
            const auto packed =
                at_.peek(static_cast<std::size_t>(std::min<std::uint64_t>(size, Cursor::window)));
            if (packed.size() < size) return fails(at_.at(), "it ends before its last row");
            if (!row_holds(packed, row)) return fails(at_.at(), "a row of its picture makes no sense");
            density_.add_decoded(size + width);
            at_.go_to(at_.at() + size);
        }
        return true;
    }

    Content& content_;
    Cursor at_;
    Check out_;
    Density density_;
};

class Psd final : public FormatReader {
  public:
    Recognised recognise(Bytes first) const override {
        const auto head = load<PsdHead>(first);
        if (!head || !begins_with(first, "8BPS"sv)) return {};
        const auto version = head->version.value();
        const bool sane = (version == 1 || version == 2) && all_zero(Bytes(head->reserved)) &&
                          head->channels.value() > 0 && head->channels.value() <= 56;
        return {"psd", sane ? 1.0 : 0.0};
    }
    ContentDetails details(Content& content) const override { return psd_details(content); }
    Check check(Content& content, const CheckLimits&) const override { return PsdCheck(content).run(); }
};

constexpr Format rows[] = {
    {.word = "psd",
     .name = "Photoshop picture",
     .kind = Kind::picture,
     .extensions = " psd psb ",
     .family = "psd",
     .strength = Strength::fair,
     .delay = 64 * KiB,
     .holds_files = true,
     .marks = "8B"sv},
};

}  // namespace

FormatRows psd_formats() {
    static const Psd reader;
    return {rows, &reader};
}

}  // namespace undershelf::content
