#include "content/media/iso_details.hpp"

#include "content/media/iso_boxes.hpp"
#include "content/titles.hpp"

namespace undershelf::content {

namespace {

std::string itunes_text(Content& content, BoxPlace list, std::uint32_t type) {
    const auto item = find_box(content, list, type);
    const auto data = item ? find_box(content, *item, box_type("data")) : std::nullopt;
    if (!data || data->end - data->at < 8) return {};
    return std::string(text_of(tag_bytes(content, data->at + 8, data->end - data->at - 8)));
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
    const auto text = tag_bytes(content, name->at + 4, name->end - name->at - 4);
    return as_title(text_of(text));
}

InnerDates iso_dates(Content& content) {
    const auto movie = find_box(content, {0, content.size()}, box_type("moov"));
    const auto head = movie ? find_box(content, *movie, box_type("mvhd")) : std::nullopt;
    if (!head) return {};
    Cursor at(content, head->at);
    const auto bytes = at.peek(20);
    if (bytes.size() < 20) return {};
    const bool wide = bytes[0] == 1;
    const auto number = [&](std::size_t index) -> std::uint64_t {
        return wide ? load<boost::endian::big_uint64_buf_t>(bytes, 4 + index * 8)->value()
                    : load<boost::endian::big_uint32_buf_t>(bytes, 4 + index * 4)->value();
    };
    constexpr std::uint64_t from_1904_to_1970 = 2'082'844'800;
    const auto time = [&](std::uint64_t seconds) {
        return seconds > from_1904_to_1970 ? time_from_unix(seconds - from_1904_to_1970) : std::nullopt;
    };
    return {time(number(0)), time(number(1)), "in the film's head"};
}

}  // namespace undershelf::content
