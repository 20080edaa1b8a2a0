#include "content/media/media_details.hpp"

#include <bit>

#include "content/media/ebml.hpp"
#include "content/media/iso_boxes.hpp"
#include "content/numbers.hpp"
#include "content/picture/picture_details.hpp"
#include "content/titles.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;
using boost::endian::big_uint32_buf_t;
using boost::endian::big_uint64_buf_t;
using boost::endian::little_uint16_buf_t;
using boost::endian::little_uint32_buf_t;
using boost::endian::little_uint64_buf_t;

/// Bytes of a box's body, as far as a head goes.
ByteVector head_of(Content& content, const BoxPlace& box) {
    return tag_bytes(content, box.at, std::min<std::uint64_t>(box.end - box.at, 128));
}

/// Columns and rows of a track, 16.16 each, at the end of its head.
void take_track(Content& content, const BoxPlace& track, std::uint64_t& most, ContentDetails& out) {
    const auto place = find_box(content, track, box_type("tkhd"));
    if (!place) return;
    const auto head = head_of(content, *place);
    const std::size_t at = !head.empty() && head[0] == 1 ? 88 : 76;
    const auto columns = number_at<big_uint32_buf_t>(head, at) >> 16,
               rows = number_at<big_uint32_buf_t>(head, at + 4) >> 16;
    if (columns * rows <= most) return;
    most = columns * rows;
    out.pixels = pixels_in_words(columns, rows);
}

double ebml_float(Bytes body) {
    if (body.size() == 4)
        return std::bit_cast<float>(static_cast<std::uint32_t>(number_at<big_uint32_buf_t>(body, 0)));
    if (body.size() == 8) return std::bit_cast<double>(number_at<big_uint64_buf_t>(body, 0));
    return 0;
}

/// Calls `visit` with each element in a body.
template <class Visit>
void each_element(Bytes rest, const Visit& visit) {
    while (const auto head = ebml_head(rest)) {
        if (head->size > rest.size() - head->head) return;
        const auto body = rest.subspan(head->head, static_cast<std::size_t>(head->size));
        visit(head->id, body);
        rest = rest.subspan(head->head + body.size());
    }
}

void take_matroska_info(Bytes body, ContentDetails& out) {
    constexpr std::uint32_t timestamp_scale = 0x2AD7B1, duration = 0x4489;
    constexpr double nanoseconds = 1e9, usual_scale = 1e6;
    double scale = usual_scale, units = 0;
    each_element(body, [&](std::uint32_t id, Bytes value) {
        if (id == timestamp_scale) scale = static_cast<double>(ebml_unsigned(value));
        if (id == duration) units = ebml_float(value);
    });
    out.seconds = play_time(units * scale, nanoseconds);
}

void take_matroska_tracks(Bytes body, ContentDetails& out) {
    constexpr std::uint32_t track_entry = 0xAE, video = 0xE0, pixel_width = 0xB0, pixel_height = 0xBA;
    each_element(body, [&](std::uint32_t track_id, Bytes track) {
        if (track_id != track_entry) return;
        each_element(track, [&](std::uint32_t id, Bytes settings) {
            if (id != video) return;
            std::uint64_t columns = 0, rows = 0;
            each_element(settings, [&](std::uint32_t what, Bytes value) {
                if (what == pixel_width) columns = ebml_unsigned(value);
                if (what == pixel_height) rows = ebml_unsigned(value);
            });
            if (out.pixels.empty()) out.pixels = pixels_in_words(columns, rows);
        });
    });
}

}  // namespace

std::optional<double> play_time(double units, double rate) {
    constexpr double a_year = 366.0 * 86400;
    const auto seconds = units / rate;
    // Also false for what is no number.
    return seconds > 0 && seconds < a_year ? std::optional(seconds) : std::nullopt;
}

ContentDetails iso_media_details(Content& content) {
    ContentDetails out;
    const auto movie = find_box(content, {0, content.size()}, box_type("moov"));
    if (!movie) return out;
    if (const auto place = find_box(content, *movie, box_type("mvhd"))) {
        const auto head = head_of(content, *place);
        const bool wide = !head.empty() && head[0] == 1;
        const auto scale = number_at<big_uint32_buf_t>(head, wide ? 20 : 12);
        const auto units =
            wide ? number_at<big_uint64_buf_t>(head, 24) : number_at<big_uint32_buf_t>(head, 16);
        if (units != (wide ? UINT64_MAX : UINT32_MAX))
            out.seconds = play_time(static_cast<double>(units), static_cast<double>(scale));
    }
    constexpr int most_tracks = 32;
    std::uint64_t most = 0;
    auto rest = *movie;
    for (int tracks = 0; tracks < most_tracks; ++tracks) {
        const auto track = find_box(content, rest, box_type("trak"));
        if (!track) break;
        take_track(content, *track, most, out);
        rest.at = track->end;
    }
    return out;
}

ContentDetails matroska_details(Content& content) {
    constexpr std::uint32_t head_id = 0x1A45DFA3, segment = 0x18538067, info = 0x1549A966,
                            tracks = 0x1654AE6B, cluster = 0x1F43B675;
    constexpr int most_elements = 32;
    ContentDetails out;
    std::uint64_t at = 0;
    for (int elements = 0; elements < most_elements; ++elements) {
        const auto head = ebml_head(tag_bytes(content, at, largest_ebml_head));
        if (!head || head->id == cluster) return out;
        at += head->head;
        if (head->id == segment) continue;  // into it
        if (head->id == info) take_matroska_info(tag_bytes(content, at, head->size), out);
        if (head->id == tracks) take_matroska_tracks(tag_bytes(content, at, head->size), out);
        if (head->open_ended || (head->id != head_id && head->size > most_tags)) return out;
        at += head->size;
    }
    return out;
}

ContentDetails wav_details(Content& content) {
    ContentDetails out;
    std::uint64_t at = 12, bytes_a_second = 0;
    constexpr int most_chunks = 64;
    for (int chunks = 0; chunks < most_chunks; ++chunks) {
        const auto head = tag_bytes(content, at, 24);
        if (head.size() < 8) break;
        const auto size = number_at<little_uint32_buf_t>(head, 4);
        if (begins_with(head, "fmt "sv)) bytes_a_second = number_at<little_uint32_buf_t>(head, 16);
        if (begins_with(head, "data"sv)) {
            // Writers that cannot go back leave no length.
            const auto left = content.size() - std::min(content.size(), at + 8);
            out.seconds = play_time(static_cast<double>(size == 0 ? left : std::min(size, left)),
                                    static_cast<double>(bytes_a_second));
            break;
        }
        at += 8 + size + size % 2;
    }
    return out;
}

ContentDetails avi_details(Content& content) {
    // RIFF size AVI , LIST size hdrl, avih size, then the head.
    constexpr std::size_t name_at = 24, body = 32;
    const auto head = tag_bytes(content, 0, body + 40);
    if (head.size() < body + 40 || !begins_with(Bytes(head).subspan(name_at), "avih"sv)) return {};
    constexpr double microseconds = 1e6;
    const auto field = [&](std::size_t index) {
        return number_at<little_uint32_buf_t>(head, body + index * 4);
    };
    ContentDetails out;
    out.seconds = play_time(static_cast<double>(field(0)) * static_cast<double>(field(4)), microseconds);
    out.pixels = pixels_in_words(field(8), field(9));
    return out;
}

ContentDetails flac_details(Content& content) {
    // After the mark and the block's head: 20 bits of rate, 3 of channels, 5 of depth, 36 of samples.
    const auto head = tag_bytes(content, 0, 26);
    if (head.size() < 26 || !begins_with(head, "fLaC"sv)) return {};
    const auto bits = number_at<big_uint64_buf_t>(head, 18);
    ContentDetails out;
    out.seconds = play_time(static_cast<double>(bits & 0xFFFFFFFFF), static_cast<double>(bits >> 44));
    return out;
}

ContentDetails ogg_details(Content& content) {
    const auto start = tag_bytes(content, 0, 4096);
    const auto text = text_of(start);
    double rate = 0, skipped = 0;
    if (const auto vorbis = text.find("\1vorbis"sv); vorbis != text.npos) {
        rate = static_cast<double>(number_at<little_uint32_buf_t>(start, vorbis + 12));
    } else if (const auto opus = text.find("OpusHead"sv); opus != text.npos) {
        rate = 48000;  // RFC 7845, 4: positions count so, whatever the rate was
        skipped = static_cast<double>(number_at<little_uint16_buf_t>(start, opus + 10));
    } else {
        return {};
    }
    constexpr std::uint64_t largest_page = 65307;  // bytes
    const auto tail_at = content.size() - std::min(content.size(), largest_page);
    const auto tail = tag_bytes(content, tail_at, largest_page);
    const auto page = text_of(tail).rfind("OggS\0"sv);
    ContentDetails out;
    if (page == std::string_view::npos) return out;
    const auto position = number_at<little_uint64_buf_t>(tail, page + 6);
    if (position != UINT64_MAX) out.seconds = play_time(static_cast<double>(position) - skipped, rate);
    return out;
}

}  // namespace undershelf::content
