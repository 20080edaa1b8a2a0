// Dates of pictures and films.

#include "base/bytes.hpp"
#include "content/dates.hpp"
#include "content/media/iso_boxes.hpp"
#include "content/picture/tiff_directory.hpp"
#include "content/picture/tiff_tags.hpp"
#include "content/readers.hpp"
#include "content/titles.hpp"

namespace undershelf::content {

InnerDates exif_dates(Content& tiff) {
    TiffFile file(tiff);
    try {
        file.read();
    } catch (const TiffWrong&) {
        // What could be read before is as good.
    }
    const auto text = [&](std::uint16_t tag) {
        for (const auto& d : file.directories()) {
            const auto* entry = d.entry(tag);
            if (!entry || entry->size > 64) continue;
            ByteVector bytes(static_cast<std::size_t>(entry->size));
            bytes.resize(tiff.read(entry->at, bytes));
            return from_latin_1(bytes);
        }
        return std::string();
    };
    InnerDates out;
    out.created = time_from_text(text(tag::taken) + text(tag::taken_zone));
    out.modified = time_from_text(text(tag::date_time) + text(tag::date_time_zone));
    if (!out.modified) out.modified = out.created;
    out.where = "in the picture's Exif data";
    return out;
}

std::string exif_title_by(FindExif find, Content& content) {
    std::string out;
    find(content, [&](Content& tiff) { out = exif_title(tiff); });
    return out;
}
InnerDates exif_dates_by(FindExif find, Content& content) {
    InnerDates out;
    find(content, [&](Content& tiff) { out = exif_dates(tiff); });
    return out;
}

InnerDates png_dates(Content& content) {
    InnerDates exif, changed;
    png_chunks(content, [&](std::string_view type, Content& data) {
        if (type == "eXIf") exif = exif_dates(data);
        if (type == "tIME") {
            Cursor at(data);
            const auto b = at.take(7);
            if (b.size() == 7)
                changed = {{},
                           time_from_civil({b[0] << 8 | b[1], b[2], b[3], b[4], b[5], b[6]}, 0),
                           "in the picture's head"};
        }
        return true;
    });
    return exif.empty() ? changed : exif;
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
