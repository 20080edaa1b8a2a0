#include "content/archive/zip_details.hpp"

#include <algorithm>
#include <charconv>

#include "content/archive/zip_directory.hpp"
#include "content/text/markup.hpp"
#include "content/titles.hpp"

namespace undershelf::content {

namespace {

constexpr std::uint64_t most_properties = 1 << 20;  ///< bytes of a member that is looked through for them

}  // namespace

std::string dublin_core_title(std::string_view xml) {
    const auto open = xml.find("<dc:title");
    const auto from = open == std::string_view::npos ? open : xml.find('>', open);
    if (from == std::string_view::npos || xml[from - 1] == '/') return {};
    const auto to = xml.find('<', from);
    if (to == std::string_view::npos) return {};
    return as_title(without_entities(xml.substr(from + 1, to - from - 1)));
}

std::string zip_title(Content& content) {
    for (const auto& member : zip_directory(content)) {
        const bool tells =
            member.name == "docProps/core.xml" || member.name == "meta.xml" || member.name.ends_with(".opf");
        if (!tells) continue;
        std::string text;
        read_zip_member(content, member, most_properties, [&](Bytes bytes) { text += text_of(bytes); });
        return dublin_core_title(text);
    }
    return {};
}

InnerDates zip_dates(Content& content) {
    InnerDates properties, members;
    for (const auto& member : zip_directory(content)) {
        const auto time = time_from_dos(member.date, member.time);
        if (ticks_of(time) > ticks_of(members.modified)) members.modified = time;
        const bool office = member.name == "docProps/core.xml", open = member.name == "meta.xml";
        if (!office && !open && !member.name.ends_with(".opf")) continue;
        std::string text;
        read_zip_member(content, member, most_properties, [&](Bytes bytes) { text += text_of(bytes); });
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

ContentDetails zip_content_details(Content& content) {
    ContentDetails out;
    const auto take = [&](std::string_view text) {
        std::uint32_t number = 0;
        const auto [end, ec] = std::from_chars(text.data(), text.data() + text.size(), number);
        if (ec == std::errc{} && number > 0) out.pages = number;
    };
    for (const auto& member : zip_directory(content)) {
        const bool office = member.name == "docProps/app.xml", open = member.name == "meta.xml";
        if (!office && !open) continue;
        std::string text;
        read_zip_member(content, member, most_properties, [&](Bytes bytes) { text += text_of(bytes); });
        if (open) {
            constexpr std::string_view mark = "meta:page-count=\"";
            if (const auto at = text.find(mark); at != text.npos)
                take(std::string_view(text).substr(at + mark.size()));
        } else {
            take(between_tags(text, "Slides"));
            take(between_tags(text, "Pages"));
        }
        break;
    }
    return out;
}

}  // namespace undershelf::content
