// Ogg (RFC 3533): pages with a serial number of their stream, a running number and a CRC-32 each; the last
// page of a stream says so.

#include <algorithm>
#include <array>
#include <map>

#include "content/format.hpp"
#include "content/list.hpp"
#include "content/media/media_details.hpp"
#include "content/media/vorbis_comments.hpp"
#include "content/titles.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;

/// Section 6.
struct PageHead {
    char capture_pattern[4];
    std::uint8_t stream_structure_version;
    std::uint8_t header_type_flag;
    boost::endian::little_uint64_buf_t granule_position;
    boost::endian::little_uint32_buf_t bitstream_serial_number;
    boost::endian::little_uint32_buf_t page_sequence_number;
    boost::endian::little_uint32_buf_t CRC_checksum;
    std::uint8_t number_page_segments;
};
static_assert(sizeof(PageHead) == 27);
constexpr std::uint8_t begin_of_stream = 2, end_of_stream = 4;

/// Polynomial 0x04C11DB7, most significant bit first, from zero, not inverted.
constexpr auto crc_table = [] {
    std::array<std::uint32_t, 256> out{};
    for (std::uint32_t i = 0; i < 256; ++i) {
        auto c = i << 24;
        for (int bit = 0; bit < 8; ++bit) c = c & 0x80000000 ? c << 1 ^ 0x04C11DB7 : c << 1;
        out[i] = c;
    }
    return out;
}();

std::uint32_t crc_of(Bytes page) {
    std::uint32_t crc = 0;
    for (std::size_t i = 0; i < page.size(); ++i) {
        const std::uint8_t byte = i >= 22 && i < 26 ? 0 : page[i];  // its own field counts as zeros
        crc = crc << 8 ^ crc_table[(crc >> 24 ^ byte) & 0xFF];
    }
    return crc;
}

std::string ogg_title(Content& content) {
    // The comments begin in the second page, and mostly end there.
    const auto start = tag_bytes(content, 0, 64 << 10);
    for (const auto mark : {"\3vorbis"sv, "OpusTags"sv}) {
        const auto at = text_of(start).find(mark);
        if (at != std::string_view::npos) return comments_title(Bytes(start).subspan(at + mark.size()));
    }
    return {};
}

class Ogg final : public FormatReader {
  public:
    bool all_our_own() const override { return true; }
    Recognised recognise(Bytes first) const override {
        return {"ogg",
                begins_with(first, "OggS\0"sv) && first.size() > 5 && first[5] & begin_of_stream ? 1.0 : 0.0};
    }

    std::string title(Content& content) const override { return ogg_title(content); }
    ContentDetails details(Content& content) const override { return ogg_details(content); }
    Check check(Content& content, const CheckLimits&) const override {
        Check out;
        out.format = "ogg";
        out.strength = Strength::strong;
        Cursor at(content);
        struct Stream {
            std::uint32_t next = 0;
            bool ended = false;
        };
        std::map<std::uint32_t, Stream> streams;
        for (std::uint64_t pages = 0;; ++pages) {
            const auto start = at.at();
            const auto all_ended =
                std::all_of(streams.begin(), streams.end(), [](const auto& s) { return s.second.ended; });
            const auto page = page_at(at);
            if (page.empty()) {
                // Some writers never say which page is the last one: then the content's own end is as good.
                if (pages && (all_ended || start == content.size())) return out.ends(start);
                return out.fails(start, "no page is where one should be");
            }
            const auto head = *load<PageHead>(page);
            auto& stream = streams[head.bitstream_serial_number.value()];
            // Once all streams have ended, only a new one goes on.
            if (pages && all_ended && !(head.header_type_flag & begin_of_stream)) return out.ends(start);
            if (streams.size() > 64) return out.fails(start, "it has more streams than any file");
            if (crc_of(page) != head.CRC_checksum.value())
                return out.fails(start, "the checksum of a page does not hold");
            if (head.page_sequence_number.value() < stream.next)
                return out.fails(start, "its pages do not follow each other");
            stream.next = head.page_sequence_number.value() + 1;
            stream.ended = head.header_type_flag & end_of_stream;
            if (pages == 0 && begins_with(page.subspan(27 + head.number_page_segments), "OpusHead"sv))
                out.format = "opus";
            at.take(page.size());
            out.proven_to = at.at();
        }
    }

  private:
    /// The whole page at the cursor; empty when there is none.
    static Bytes page_at(Cursor& at) {
        const auto head = load<PageHead>(at.peek(sizeof(PageHead)));
        if (!head || std::string_view(head->capture_pattern, 4) != "OggS" ||
            head->stream_structure_version != 0)
            return {};
        std::size_t length = sizeof(PageHead) + head->number_page_segments;
        const auto lacing = at.peek(length);
        if (lacing.size() < length) return {};
        for (const auto segment : lacing.subspan(sizeof(PageHead))) length += segment;
        const auto page = at.peek(length);
        return page.size() == length ? page : Bytes();
    }
};

constexpr OtherKind films[] = {{Kind::video, " ogv "}};
constexpr Format rows[] = {
    {.word = "ogg",
     .name = "Ogg sound",
     .kind = Kind::audio,
     .extensions = " ogg oga ogv ",
     .others = films,
     .family = "ogg",
     .strength = Strength::strong,
     .filling = Filling::dense,
     .marks = "Og"sv},
    {.word = "opus",
     .name = "Opus sound",
     .kind = Kind::audio,
     .extensions = " opus ",
     .family = "ogg",
     .strength = Strength::strong,
     .filling = Filling::dense},
};

}  // namespace

FormatRows ogg_formats() {
    static const Ogg reader;
    return {rows, &reader};
}

}  // namespace undershelf::content
