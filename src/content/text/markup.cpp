#include "content/text/markup.hpp"

#include <algorithm>
#include <charconv>
#include <utility>

#include "base/text.hpp"
#include "content/ascii.hpp"
#include "content/characters.hpp"
#include "content/format.hpp"
#include "content/titles.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;

constexpr std::string_view white = " \t\r\n\f";

bool begins(std::string_view text, std::string_view word) {
    return text.size() >= word.size() && same_word(text.substr(0, word.size()), word);
}
bool is_name_start(char c) {
    return (lower(c) >= 'a' && lower(c) <= 'z') || c == '_' || (c & 0x80);
}

/// Tags that pages begin with, or bits of pages.
constexpr std::string_view html_tags[] = {"html", "head", "body",   "title", "meta",   "link", "base",
                                          "h1",   "h2",   "h3",     "p",     "div",    "span", "table",
                                          "form", "font", "center", "style", "script", "a",    "br",
                                          "hr",   "img",  "ul",     "ol",    "pre",    "b",    "i"};

std::string_view behind(std::string_view text, std::string_view mark) {
    const auto at = text.find(mark);
    return at == std::string_view::npos ? std::string_view() : text.substr(at + mark.size());
}

/// A document type, after its own definitions in brackets.
std::string_view behind_type(std::string_view text) {
    const auto end = text.find('>'), bracket = text.find('[');
    return bracket < end ? behind(behind(text, "]"), ">") : behind(text, ">");
}

std::string_view word_at(std::string_view text) {
    return text.substr(0, text.find_first_of(" \t\r\n\f/>["));
}

/// Could a tag be first, in any encoding? Most contents are told by a glance.
bool may_begin_with_tag(Bytes first) {
    constexpr auto before_tags = " \t\r\n\f\0\xef\xbb\xbf\xff\xfe<"sv;
    return !first.empty() && before_tags.find(static_cast<char>(first[0])) != before_tags.npos;
}

}  // namespace

std::string without_entities(std::string_view text) {
    constexpr std::pair<std::string_view, std::string_view> named[] = {
        {"amp", "&"}, {"lt", "<"}, {"gt", ">"}, {"quot", "\""}, {"apos", "'"}, {"nbsp", " "}};
    std::string out;
    while (!text.empty()) {
        const auto end = text.find(';');
        if (text[0] != '&' || end == text.npos || end > 10) {
            out += text[0];
            text.remove_prefix(1);
            continue;
        }
        auto name = text.substr(1, end - 1);
        const auto* it = std::find_if(std::begin(named), std::end(named),
                                      [&](const auto& entity) { return entity.first == name; });
        if (it != std::end(named)) {
            out += it->second;
        } else if (name.starts_with('#')) {
            const int base = name.substr(1, 1) == "x" ? 16 : 10;
            name.remove_prefix(base == 16 ? 2 : 1);
            std::uint32_t c = 0;
            std::from_chars(name.data(), name.data() + name.size(), c, base);
            out += utf8_character(c);
        } else {
            out += text.substr(0, end + 1);
        }
        text.remove_prefix(end + 1);
    }
    return out;
}

MarkupStart markup_start(Bytes first) {
    MarkupStart out;
    if (!may_begin_with_tag(first)) return out;
    // A short document may have something else after its end.
    constexpr std::size_t shortest = 64;
    const auto encoding = encoding_of(first.first(std::min(first.size(), shortest)));
    if (!encoding) return out;
    std::string wide;
    auto text = text_of(first);
    if (*encoding == Encoding::utf16_le || *encoding == Encoding::utf16_be) {
        wide = from_utf16(first, *encoding == Encoding::utf16_be);
        text = wide;
    }
    if (text.starts_with("\xef\xbb\xbf")) text.remove_prefix(3);
    out.declared = text.starts_with("<?xml") && text.size() > 5 && white.find(text[5]) != white.npos;
    for (;;) {
        text.remove_prefix(std::min(text.find_first_not_of(white), text.size()));
        if (text.size() < 2 || text[0] != '<') return out;
        if (text[1] == '?') {
            text = behind(text, "?>");
        } else if (text.starts_with("<!--")) {
            text = behind(text.substr(4), "-->");
        } else if (begins(text, "<!doctype")) {
            auto name = text.substr(9);
            name.remove_prefix(std::min(name.find_first_not_of(white), name.size()));
            out.is_html |= same_word(word_at(name), "html");
            text = behind_type(text);
        } else if (is_name_start(text[1])) {
            const auto name = word_at(text.substr(1));
            const auto colon = name.rfind(':');
            out.root = name.substr(colon == name.npos ? 0 : colon + 1);
            if (!out.declared)
                out.is_html |= std::any_of(std::begin(html_tags), std::end(html_tags),
                                           [&](std::string_view tag) { return same_word(tag, name); });
            return out;
        } else {
            return out;
        }
    }
}

std::string between_tags(std::string_view text, std::string_view name) {
    for (auto at = text.find('<'); at != text.npos; at = text.find('<', at + 1)) {
        const auto tag = text.substr(at + 1);
        if (!begins(tag, name) || tag.size() <= name.size() ||
            (tag[name.size()] != '>' && white.find(tag[name.size()]) == white.npos))
            continue;
        const auto inside = behind(tag, ">");
        return without_entities(inside.substr(0, inside.find('<')));
    }
    return {};
}

}  // namespace undershelf::content
