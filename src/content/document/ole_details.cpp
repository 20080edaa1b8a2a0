#include "content/document/ole_details.hpp"

#include <algorithm>

#include "base/text.hpp"
#include "content/document/compound_file.hpp"
#include "content/titles.hpp"

namespace undershelf::content {

namespace {

using boost::endian::little_uint16_buf_t;
using boost::endian::little_uint32_buf_t;

constexpr std::size_t most_properties = 1 << 20;  ///< bytes

/// The set of properties; empty where the file has no summary.
ByteVector ole_properties(Content& content) {
    try {
        const CompoundFile file(content);
        const auto* stream = file.stream("?SummaryInformation", 0);
        if (!stream) return {};
        if (file.is_small(*stream)) return file.read_small(*stream);
        ByteVector set(static_cast<std::size_t>(std::min<std::uint64_t>(stream->size, most_properties)));
        set.resize(CompoundStreamContent(content, file, *stream).read(0, set));
        return set;
    } catch (const CompoundWrong&) {
        return {};
    }
}

/// A property of its first section, type and value; empty where it has none of this number.
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

}  // namespace

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

ContentDetails ole_content_details(Content& content) {
    constexpr std::uint32_t page_count = 14, integer = 3;
    const auto properties = ole_properties(content);
    const auto value = ole_property(properties, page_count);
    const auto type = load<little_uint32_buf_t>(value), number = load<little_uint32_buf_t>(value, 4);
    ContentDetails out;
    if (type && number && type->value() == integer && number->value() > 0 && number->value() <= INT32_MAX)
        out.pages = number->value();
    return out;
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
