// gzip (RFC 1952): members one after the other, each a deflate stream with the CRC-32 and length of what it
// yields.

#include <zlib.h>

#include "content/archive/inflate.hpp"
#include "content/archive/members.hpp"
#include "content/format.hpp"
#include "content/list.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;

/// Bytes of a member's head that no sum covers (RFC 1952, 2.3): date, way and system, and the optional
/// fields.
std::uint64_t unsummed_head(Content& content, std::uint64_t start) {
    constexpr std::uint64_t always = 6;
    constexpr std::uint8_t head_sum = 2, extra = 4, name = 8, comment = 16;
    constexpr std::size_t longest_text = 4096;
    Cursor at(content, start);
    const auto head = at.take(10);
    if (head.size() < 10 || head[3] & head_sum) return 0;
    const auto flags = head[3];
    if (flags & extra) {
        const auto length = load<boost::endian::little_uint16_buf_t>(at.take(2));
        at.go_to(at.at() + (length ? length->value() : 0));
    }
    for (const auto text : {name, comment}) {
        if (!(flags & text)) continue;
        const auto bytes = at.peek(longest_text);
        const auto end = std::find(bytes.begin(), bytes.end(), std::uint8_t{0});
        at.take(static_cast<std::size_t>(end - bytes.begin()) + 1);
    }
    return always + (at.at() - start - 10);
}

class Gzip final : public FormatReader {
  public:
    void outline(Content& content, const TakeText& take) const override { archive_outline(content, take); }
    Recognised recognise(Bytes first) const override {
        // Reserved flags are zero.
        if (!begins_with(first, "\x1f\x8b\x08"sv) || first.size() <= 3 || (first[3] & 0xE0) != 0) return {};
        // How it was packed, and on what system, are among few (RFC 1952, 2.3.1).
        const bool told = first.size() > 9 && (first[8] == 0 || first[8] == 2 || first[8] == 4) &&
                          (first[9] <= 13 || first[9] == 255);
        return {"gzip", told ? 1.0 : 0.95};
    }

    Check check(Content& content, const CheckLimits& limits) const override {
        Check out;
        out.format = "gzip";
        out.strength = Strength::strong;
        Cursor at(content);
        OutputBound output(limits.most_output);
        std::uint64_t uncovered = 0;
        do {
            const auto start = at.at();
            uncovered += unsummed_head(content, start);
            const auto r = inflate_at(at, Wrapping::gzip, output, nullptr);
            if (r.end == InflateEnd::too_much) {
                out.finished = false;
                return out.fails(at.at(), yields_too_much);
            }
            // A wrong byte may show only in the sum at the end of the member.
            if (r.end == InflateEnd::wrong_sum) return out.fails(start, "its checksum does not hold");
            if (r.end == InflateEnd::broken)
                return out.fails(r.input_end, "its compressed data make no sense");
            if (r.end == InflateEnd::cut) return out.fails(r.input_end, "its compressed data end early");
            out.proven_to = at.at();
            out.strength = strong_unless(uncovered, at.at());
        } while (recognise(at.peek(16)).sure > 0);
        return out.ends(at.at());
    }

    InnerDates dates(Content& content) const override {
        Cursor start(content);
        const auto time = load<boost::endian::little_uint32_buf_t>(start.peek(8), 4);
        return {{}, time_from_unix(time ? time->value() : 0), "that of the file that was packed"};
    }
};

constexpr Format rows[] = {
    {.word = "gzip",
     .name = "gzip archive",
     .kind = Kind::archive,
     .extensions = " gz tgz ",
     .family = "gzip",
     .strength = Strength::strong,
     .delay = 64 * KiB,
     .filling = Filling::dense,
     .marks = "\x1f\x8b"sv},
};

}  // namespace

FormatRows gzip_formats() {
    static const Gzip reader;
    return {rows, &reader};
}

}  // namespace undershelf::content
