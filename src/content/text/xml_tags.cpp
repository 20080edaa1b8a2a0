#include "content/text/xml_tags.hpp"

#include <algorithm>

#include "content/text/markup.hpp"

namespace undershelf::content {

std::string XmlTag::attribute(std::string_view wanted) const {
    for (std::size_t at = attributes.find(wanted); at != attributes.npos;
         at = attributes.find(wanted, at + 1)) {
        if (at > 0 && attributes[at - 1] != ' ' && attributes[at - 1] != '\t' && attributes[at - 1] != '\n' &&
            attributes[at - 1] != '\r' && attributes[at - 1] != ':')
            continue;
        auto rest = attributes.substr(at + wanted.size());
        if (rest.size() < 2 || rest[0] != '=' || (rest[1] != '"' && rest[1] != '\'')) continue;
        const char quote = rest[1];
        rest.remove_prefix(2);
        return without_entities(rest.substr(0, rest.find(quote)));
    }
    return {};
}

void for_each_tag(std::string_view text, const std::function<bool(const XmlTag&)>& visit) {
    for (auto from = text.find('<'); from != text.npos;) {
        const auto end = text.find('>', from);
        if (end == text.npos) return;
        auto inside = text.substr(from + 1, end - from - 1);
        const auto next = text.find('<', end);
        XmlTag tag;
        tag.after = text.substr(end + 1, (next == text.npos ? text.size() : next) - end - 1);
        tag.closes = inside.starts_with('/');
        if (tag.closes) inside.remove_prefix(1);
        tag.empty = inside.ends_with('/');
        if (tag.empty) inside.remove_suffix(1);
        const auto name_end = std::min(inside.find_first_of(" \t\r\n"), inside.size());
        tag.name = inside.substr(0, name_end);
        if (const auto colon = tag.name.rfind(':'); colon != tag.name.npos) tag.name.remove_prefix(colon + 1);
        tag.attributes = inside.substr(name_end);
        if (!visit(tag)) return;
        from = next;
    }
}

}  // namespace undershelf::content
