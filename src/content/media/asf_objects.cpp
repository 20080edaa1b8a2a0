#include "content/media/asf_objects.hpp"

#include <algorithm>
#include <array>

#include "content/media/media_details.hpp"
#include "content/titles.hpp"

namespace undershelf::content::asf {

namespace {

/// Calls `visit` for the objects in the header, of which 64 are looked at.
template <class Visit>
void in_header(Content& content, const Visit& visit) {
    constexpr int most_objects = 64;
    const auto whole = object_at(content, 0);
    std::uint64_t at = sizeof(HeaderHead);
    for (int objects = 0; objects < most_objects && whole && at < whole->end(); ++objects) {
        const auto object = object_at(content, at);
        if (!object || object->end() > whole->end()) break;
        visit(*object);
        at = object->end();
    }
}

std::string described(Content& content, const Object& object) {
    ByteVector bytes(static_cast<std::size_t>(std::min<std::uint64_t>(object.size, 2048)));
    bytes.resize(content.read(object.at, bytes));
    const auto length = [&](std::size_t i) -> std::size_t {
        const auto field = load<little_uint16_buf_t>(bytes, sizeof(ObjectHead) + 2 * i);
        return field ? field->value() : 0;
    };
    const auto text = [&](std::size_t from, std::size_t size) {
        if (from > bytes.size()) return std::string();
        return from_utf16(Bytes(bytes).subspan(from, std::min(size, bytes.size() - from)), false);
    };
    constexpr std::size_t texts = sizeof(ObjectHead) + 10;
    return song_title(text(texts + length(0), length(1)), text(texts, length(0)));
}

}  // namespace

std::optional<Object> object_at(Content& content, std::uint64_t at) {
    std::array<std::uint8_t, sizeof(ObjectHead)> bytes;
    if (content.read(at, bytes) < bytes.size()) return std::nullopt;
    const auto head = *load<ObjectHead>(bytes);
    if (head.size.value() < sizeof(ObjectHead) || head.size.value() > ~0ull - at) return std::nullopt;
    return Object{std::string(head.id()), at, head.size.value()};
}

std::string title(Content& content) {
    std::string out;
    in_header(content, [&](const Object& object) {
        if (object.id == content_description) out = described(content, object);
    });
    return out;
}

ContentDetails details(Content& content) {
    constexpr double ticks = 1e7, milliseconds = 1e3;  // in a second
    ContentDetails out;
    in_header(content, [&](const Object& object) {
        if (object.id != file_properties) return;
        const auto bytes = tag_bytes(content, object.at, sizeof(FileProperties));
        const auto p = load<FileProperties>(bytes);
        if (!p) return;
        out.seconds = play_time(static_cast<double>(p->play_duration.value()) / ticks -
                                    static_cast<double>(p->preroll.value()) / milliseconds,
                                1);
    });
    return out;
}

InnerDates dates(Content& content) {
    InnerDates out;
    in_header(content, [&](const Object& object) {
        if (object.id != file_properties) return;
        Cursor at(content, object.at);
        if (const auto p = at.take_structure<FileProperties>())
            out.created = time_from_filetime(p->creation_date.value());
    });
    out.where = "in the film's head";
    return out;
}

std::string_view extension(Content& content) {
    bool sound = false, pictures = false;
    in_header(content, [&](const Object& object) {
        if (object.id != stream_properties) return;
        Cursor at(content, object.at + sizeof(ObjectHead));
        const auto type = text_of(at.take(audio_media.size()));
        sound |= type == audio_media;
        pictures |= type != audio_media;
    });
    return sound && !pictures ? "wma" : "wmv";
}

}  // namespace undershelf::content::asf
