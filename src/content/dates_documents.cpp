// Dates of documents and archives.

#include <algorithm>

#include "content/archive/zip_directory.hpp"
#include "content/dates.hpp"
#include "content/readers.hpp"
#include "content/text/markup.hpp"
#include "content/titles.hpp"

namespace undershelf::content {

InnerDates pdf_dates(Content& content) {
    const auto dictionary = pdf_information(content);
    const auto value = [&](std::string_view key) -> MaybeTime {
        const auto at = dictionary.find(key);
        const auto open =
            at == std::string::npos ? at : dictionary.find_first_not_of(" \r\n", at + key.size());
        if (open == std::string::npos || dictionary[open] != '(') return std::nullopt;
        return time_from_text(std::string_view(dictionary).substr(open + 1));
    };
    return {value("/CreationDate"), value("/ModDate"), "in the document's information"};
}

InnerDates zip_dates(Content& content) {
    InnerDates properties, members;
    for (const auto& member : zip_directory(content)) {
        const auto time = time_from_dos(member.date, member.time);
        if (ticks_of(time) > ticks_of(members.modified)) members.modified = time;
        const bool office = member.name == "docProps/core.xml", open = member.name == "meta.xml";
        if (!office && !open && !member.name.ends_with(".opf")) continue;
        constexpr std::uint64_t most = 1 << 20;
        std::string text;
        read_zip_member(content, member, most, [&](Bytes bytes) { text += text_of(bytes); });
        const auto created = between_tags(text, open ? "meta:creation-date" : "dcterms:created");
        const auto modified = between_tags(text, office ? "dcterms:modified" : "dc:date");
        properties.created = time_from_text(created);
        properties.modified = time_from_text(modified);
    }
    if (!properties.empty()) {
        properties.where = "in the document's properties";
        return properties;
    }
    members.where = "that of its newest member";
    return members;
}

InnerDates ole_dates(Content& content) {
    const auto properties = ole_properties(content);
    constexpr std::uint32_t created = 12, saved = 13, filetime = 0x40;
    const auto time = [&](std::uint32_t id) -> MaybeTime {
        const auto value = ole_property(properties, id);
        const auto type = load<boost::endian::little_uint32_buf_t>(value);
        const auto ticks = load<boost::endian::little_uint64_buf_t>(value, 4);
        return type && ticks && type->value() == filetime ? time_from_filetime(ticks->value()) : std::nullopt;
    };
    return {time(created), time(saved), "in the document's properties"};
}

}  // namespace undershelf::content
