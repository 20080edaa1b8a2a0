// Titles of documents.

#include <fmt/format.h>

#include <algorithm>
#include <array>

#include "base/text.hpp"
#include "content/archive/inflate.hpp"
#include "content/archive/zip_directory.hpp"
#include "content/document/pdf_objects.hpp"
#include "content/readers.hpp"
#include "content/text/markup.hpp"
#include "content/titles.hpp"

namespace undershelf::content {

namespace {

using boost::endian::little_uint16_buf_t;
using boost::endian::little_uint32_buf_t;
using namespace std::string_view_literals;

constexpr std::size_t most_text = 1 << 20;  ///< bytes of a member that is looked through

/// UTF-16 begins with its mark.
std::string pdf_text(std::string_view literal) {
    const Bytes bytes(reinterpret_cast<const std::uint8_t*>(literal.data()), literal.size());
    return begins_with(bytes, "\xfe\xff"sv) ? from_utf16(bytes, true) : from_latin_1(bytes);
}

/// Where `mark` stands in the content, from `at` on, within `most` bytes.
std::optional<std::uint64_t> find_text(Content& content, std::uint64_t at, std::uint64_t most,
                                       std::string_view mark) {
    constexpr std::size_t step = 1 << 20;
    ByteVector bytes(step + mark.size());
    for (const auto end = at + most; at < end && at < content.size(); at += step) {
        const auto found = text_of(Bytes(bytes).first(content.read(at, bytes))).find(mark);
        if (found != std::string_view::npos) return at + found;
    }
    return std::nullopt;
}

std::string text_at(Content& content, std::uint64_t at, std::size_t most) {
    ByteVector bytes(most);
    return std::string(text_of(Bytes(bytes).first(content.read(at, bytes))));
}

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
        read_zip_member(content, member, most_text, [&](Bytes bytes) { text += text_of(bytes); });
        return dublin_core_title(text);
    }
    return {};
}

ByteVector ole_properties(Content& content) {
    try {
        const CompoundFile file(content);
        const auto* stream = file.stream("?SummaryInformation", 0);
        if (!stream) return {};
        if (file.is_small(*stream)) return file.read_small(*stream);
        ByteVector set(static_cast<std::size_t>(std::min<std::uint64_t>(stream->size, most_text)));
        set.resize(CompoundStreamContent(content, file, *stream).read(0, set));
        return set;
    } catch (const CompoundWrong&) {
        return {};
    }
}

Bytes ole_property(Bytes properties, std::uint32_t id) {
    const auto u32 = [&](std::size_t at) {
        const auto n = load<little_uint32_buf_t>(properties, at);
        return n ? std::size_t{n->value()} : 0;
    };
    constexpr std::size_t first_section = 44, most = 64;
    const auto section = u32(first_section);
    const auto count = std::min(u32(section + 4), most);
    for (std::size_t i = 0; i < count; ++i) {
        const auto at = section + u32(section + 12 + i * 8);
        if (u32(section + 8 + i * 8) == id && at < properties.size()) return properties.subspan(at);
    }
    return {};
}

std::string ole_title(Content& content) {
    constexpr std::uint32_t pid_code_page = 1, pid_title = 2, ansi_string = 0x1E;
    constexpr unsigned utf16_page = 1200, utf8_page = 65001, western = 1252;
    const auto set = ole_properties(content);
    const auto title = ole_property(set, pid_title);
    const auto type = load<little_uint32_buf_t>(title), length = load<little_uint32_buf_t>(title, 4);
    if (!type || !length || type->value() != ansi_string) return {};
    const auto page = load<little_uint16_buf_t>(ole_property(set, pid_code_page), 4);
    const unsigned code_page = page ? page->value() : western;
    const auto bytes = title.subspan(8, std::min<std::size_t>(length->value(), title.size() - 8));
    if (code_page == utf16_page) return as_title(from_utf16(bytes, false));
    const auto text = text_of(bytes).substr(0, text_of(bytes).find('\0'));
    if (code_page == utf8_page) return as_title(text);
    try {
        return as_title(CodePage(std::to_string(code_page)).utf8(bytes.first(text.size())));
    } catch (const std::exception&) {  // a page that nobody knows
        return as_title(from_latin_1(bytes));
    }
}

std::string pdf_information(Content& content) {
    constexpr std::uint64_t tail = 4096, most_searched = 64 << 20;  // bytes
    const auto end = text_at(content, content.size() - std::min(content.size(), tail), tail);
    const auto info = end.rfind("/Info ");
    if (info == std::string::npos) return {};
    const auto number = end.substr(info + 6, std::min(end.find(' ', info + 6), end.size()) - info - 6);
    if (number.empty() || number.find_first_not_of("0123456789") != std::string::npos) return {};
    const auto object = find_text(content, 0, most_searched, fmt::format("\n{} 0 obj", number));
    const auto other =
        object ? object : find_text(content, 0, most_searched, fmt::format("\r{} 0 obj", number));
    if (!other) return {};
    auto dictionary = text_at(content, *other, 4096);
    dictionary.resize(std::min(dictionary.find("endobj"), dictionary.size()));
    return dictionary;
}

std::string pdf_title(Content& content) {
    const auto dictionary = pdf_information(content);
    const auto title = dictionary.find("/Title");
    const auto open = title == std::string::npos ? title : dictionary.find_first_not_of(" \r\n", title + 6);
    if (open == std::string::npos || dictionary[open] != '(') return {};
    auto at = open;
    return as_title(pdf_text(pdf_literal(dictionary, at)));
}

}  // namespace undershelf::content
