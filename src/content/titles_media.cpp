// Titles of pictures, sounds and films.

#include <algorithm>
#include <array>

#include "content/dates.hpp"
#include "content/media/ebml.hpp"
#include "content/media/iso_boxes.hpp"
#include "content/picture/tiff_directory.hpp"
#include "content/picture/tiff_tags.hpp"
#include "content/readers.hpp"
#include "content/titles.hpp"

namespace undershelf::content {

namespace {

using boost::endian::big_uint16_buf_t;
using boost::endian::big_uint32_buf_t;
using boost::endian::little_uint32_buf_t;
using namespace std::string_view_literals;

constexpr std::size_t most_tags = 256 << 10;  ///< bytes of tags that are looked through

ByteVector bytes_at(Content& content, std::uint64_t at, std::uint64_t size) {
    ByteVector out(static_cast<std::size_t>(std::min<std::uint64_t>(size, most_tags)));
    out.resize(content.read(at, out));
    return out;
}

/// `2024:03:01 19:30:05` as `2024-03-01 19.30.05`, which names can hold.
std::string time_in_name(std::string text) {
    if (text.size() < 19 || text[4] != ':') return {};
    text.resize(19);
    text[4] = text[7] = '-';
    text[13] = text[16] = '.';
    return text.starts_with("0000") ? std::string() : text;
}

/// ID3v2's text frames: a byte that tells the encoding, then the text.
std::string id3_text(Bytes body) {
    if (body.empty()) return {};
    const auto text = body.subspan(1);
    switch (body[0]) {
        case 0:
            return from_latin_1(text);
        case 1:
            return from_utf16(text, text.size() > 1 && text[0] == 0xFE);
        case 2:
            return from_utf16(text, true);
        default:
            return std::string(text_of(text).substr(0, text_of(text).find('\0')));
    }
}

std::uint32_t id3_length(Bytes bytes, std::size_t at, unsigned bits) {
    std::uint32_t out = 0;
    for (std::size_t i = 0; i < 4; ++i) out = out << bits | bytes[at + i];
    return out;
}

}  // namespace

std::string exif_title(Content& tiff) {
    TiffFile file(tiff);
    try {
        file.read();
    } catch (const TiffWrong&) {
        // What could be read before is as good.
    }
    std::string model, time;
    for (const auto& d : file.directories()) {
        const auto text = [&](std::uint16_t tag) {
            const auto* entry = d.entry(tag);
            return entry ? from_latin_1(bytes_at(tiff, entry->at, std::min<std::uint64_t>(entry->size, 64)))
                         : std::string();
        };
        if (model.empty()) model = text(tag::model);
        if (time.empty()) time = time_in_name(text(tag::taken));
        if (time.empty() && !model.empty()) time = time_in_name(text(tag::date_time));
    }
    return as_title(model + " " + time);
}

void jpeg_exif(Content& content, const UseExif& use) {
    for (std::uint64_t at = 2; at < most_tags;) {
        const auto head = bytes_at(content, at, 10);
        if (head.size() < 10 || head[0] != 0xFF || head[1] < 0xE0) return;
        const std::uint64_t length = load<big_uint16_buf_t>(head, 2)->value();
        if (head[1] == 0xE1 && begins_with(Bytes(head).subspan(4), "Exif\0\0"sv) && length > 8) {
            PartOfContent tiff(content, at + 10, length - 8);
            use(tiff);
            return;
        }
        at += 2 + length;
    }
}

void png_chunks(Content& content, const std::function<bool(std::string_view type, Content& data)>& visit) {
    constexpr std::size_t signature = 8, head_size = 8;
    for (std::uint64_t at = signature; at < most_tags;) {
        const auto head = bytes_at(content, at, head_size);
        if (head.size() < head_size) break;
        const std::uint64_t length = load<big_uint32_buf_t>(head)->value();
        PartOfContent data(content, at + head_size, length);
        if (!visit(text_of(Bytes(head).subspan(4)), data)) break;
        at += head_size + length + 4;
    }
}

std::string png_title(Content& content) {
    std::string title, camera;
    png_chunks(content, [&](std::string_view type, Content& data) {
        if (type == "tEXt") {
            const auto text = bytes_at(data, 0, std::min<std::uint64_t>(data.size(), 512));
            if (begins_with(text, "Title\0"sv)) title = as_title(from_latin_1(Bytes(text).subspan(6)));
        }
        if (type == "eXIf") camera = exif_title(data);
        return title.empty();
    });
    return title.empty() ? camera : title;
}

void webp_exif(Content& content, const UseExif& use) {
    constexpr std::uint64_t most_chunks = 64;
    std::uint64_t at = 12;
    for (std::uint64_t chunks = 0; chunks < most_chunks; ++chunks) {
        const auto head = bytes_at(content, at, 14);
        if (head.size() < 14) return;
        const std::uint64_t length = load<little_uint32_buf_t>(head, 4)->value();
        if (begins_with(head, "EXIF"sv)) {
            // Some writers put what JPEG needs before it.
            const std::uint64_t marked = begins_with(Bytes(head).subspan(8), "Exif\0\0"sv) ? 6 : 0;
            PartOfContent tiff(content, at + 8 + marked, length - std::min(length, marked));
            use(tiff);
            return;
        }
        at += 8 + length + length % 2;
    }
}

std::string mp3_title(Content& content) {
    std::string artist, title;
    const auto head = bytes_at(content, 0, 10);
    if (head.size() == 10 && begins_with(head, "ID3"sv)) {
        const auto tag = bytes_at(content, 10, id3_length(head, 6, 7));
        const std::size_t version = head[3];
        const std::size_t frame_head = version == 2 ? 6 : 10;
        for (auto rest = Bytes(tag); rest.size() > frame_head && rest[0] != 0;) {
            const std::size_t length =
                version == 2 ? id3_length(rest, 2, 8) & 0xFFFFFF : id3_length(rest, 4, version == 4 ? 7 : 8);
            if (length > rest.size() - frame_head) break;
            const auto body = rest.subspan(frame_head, length);
            if (begins_with(rest, "TIT2"sv) || begins_with(rest, "TT2"sv)) title = id3_text(body);
            if (begins_with(rest, "TPE1"sv) || begins_with(rest, "TP1"sv)) artist = id3_text(body);
            rest = rest.subspan(frame_head + length);
        }
    }
    if (title.empty() && artist.empty() && content.size() > 128) {
        const auto tag = bytes_at(content, content.size() - 128, 128);
        if (tag.size() == 128 && begins_with(tag, "TAG"sv)) {
            title = from_latin_1(Bytes(tag).subspan(3, 30));
            artist = from_latin_1(Bytes(tag).subspan(33, 30));
        }
    }
    return song_title(as_title(artist), as_title(title));
}

std::string comments_title(Bytes comments) {
    const auto take = [&]() -> Bytes {
        const auto length = load<little_uint32_buf_t>(comments);
        if (!length || length->value() > comments.size() - 4) {
            comments = {};
            return {};
        }
        const auto out = comments.subspan(4, length->value());
        comments = comments.subspan(4 + out.size());
        return out;
    };
    take();
    if (comments.size() < 4) return {};
    comments = comments.subspan(4);
    std::string artist, title;
    while (!comments.empty()) {
        const auto comment = std::string(text_of(take()));
        auto key = comment.substr(0, comment.find('='));
        for (auto& c : key) c = c >= 'a' && c <= 'z' ? static_cast<char>(c - 32) : c;
        if (key == "TITLE" && title.empty()) title = comment.substr(6);
        if (key == "ARTIST" && artist.empty()) artist = comment.substr(7);
    }
    return song_title(artist, title);
}

std::string flac_title(Content& content) {
    for (std::uint64_t at = 4; at < content.size();) {
        const auto head = bytes_at(content, at, 4);
        if (head.size() < 4) return {};
        const auto length = load<big_uint32_buf_t>(head)->value() & 0xFFFFFF;
        constexpr std::uint8_t last = 0x80, comments = 4;
        if ((head[0] & ~last) == comments) return comments_title(bytes_at(content, at + 4, length));
        if (head[0] & last) return {};
        at += 4 + length;
    }
    return {};
}

std::string ogg_title(Content& content) {
    // The comments begin in the second page, and mostly end there.
    const auto start = bytes_at(content, 0, 64 << 10);
    for (const auto mark : {"\3vorbis"sv, "OpusTags"sv}) {
        const auto at = text_of(start).find(mark);
        if (at != std::string_view::npos) return comments_title(Bytes(start).subspan(at + mark.size()));
    }
    return {};
}

namespace {

std::string itunes_text(Content& content, BoxPlace list, std::uint32_t type) {
    const auto item = find_box(content, list, type);
    const auto data = item ? find_box(content, *item, box_type("data")) : std::nullopt;
    if (!data || data->end - data->at < 8) return {};
    return std::string(text_of(bytes_at(content, data->at + 8, data->end - data->at - 8)));
}

}  // namespace

std::string iso_title(Content& content) {
    const auto movie = find_box(content, {0, content.size()}, box_type("moov"));
    const auto user = movie ? find_box(content, *movie, box_type("udta")) : std::nullopt;
    if (!user) return {};
    if (const auto meta = find_box(content, *user, box_type("meta"))) {
        const auto list = find_box(content, {meta->at + 4, meta->end}, box_type("ilst"));
        if (list)
            return song_title(itunes_text(content, *list, box_type("\251ART")),
                              itunes_text(content, *list, box_type("\251nam")));
    }
    // QuickTime's own: a length, a language, the text.
    const auto name = find_box(content, *user, box_type("\251nam"));
    if (!name || name->end - name->at < 4) return {};
    const auto text = bytes_at(content, name->at + 4, name->end - name->at - 4);
    return as_title(text_of(text));
}

std::string matroska_title(Content& content) {
    constexpr std::uint32_t head_id = 0x1A45DFA3, segment = 0x18538067, info = 0x1549A966, title = 0x7BA9;
    std::uint64_t at = 0;
    for (int elements = 0; elements < 32; ++elements) {
        const auto head = ebml_head(bytes_at(content, at, largest_ebml_head));
        if (!head) return {};
        at += head->head;
        if (head->id == segment) continue;  // into it
        if (head->id == info) {
            const auto body = bytes_at(content, at, head->size);
            for (auto rest = Bytes(body); const auto child = ebml_head(rest);) {
                if (child->size > rest.size() - child->head) break;
                const auto value = rest.subspan(child->head, static_cast<std::size_t>(child->size));
                if (child->id == title) return as_title(text_of(value));
                rest = rest.subspan(child->head + value.size());
            }
            return {};
        }
        if (head->open_ended || (head->id != head_id && head->size > most_tags)) return {};
        at += head->size;
    }
    return {};
}

}  // namespace undershelf::content
