#include "content/picture/exif.hpp"

#include <algorithm>

#include "content/picture/tiff_directory.hpp"
#include "content/picture/tiff_tags.hpp"
#include "content/titles.hpp"

namespace undershelf::content {

namespace {

/// `2024:03:01 19:30:05` as `2024-03-01 19.30.05`, which names can hold.
std::string time_in_name(std::string text) {
    if (text.size() < 19 || text[4] != ':') return {};
    text.resize(19);
    text[4] = text[7] = '-';
    text[13] = text[16] = '.';
    return text.starts_with("0000") ? std::string() : text;
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
            return entry ? from_latin_1(tag_bytes(tiff, entry->at, std::min<std::uint64_t>(entry->size, 64)))
                         : std::string();
        };
        if (model.empty()) model = text(tag::model);
        if (time.empty()) time = time_in_name(text(tag::taken));
        if (time.empty() && !model.empty()) time = time_in_name(text(tag::date_time));
    }
    return as_title(model + " " + time);
}

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

std::string exif_title_by(const FormatReader& reader, Content& content) {
    std::string out;
    reader.exif(content, [&](Content& tiff) { out = exif_title(tiff); });
    return out;
}
InnerDates exif_dates_by(const FormatReader& reader, Content& content) {
    InnerDates out;
    reader.exif(content, [&](Content& tiff) { out = exif_dates(tiff); });
    return out;
}

}  // namespace undershelf::content
