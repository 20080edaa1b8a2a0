#include "content/document/pdf_details.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "content/document/pdf_objects.hpp"
#include "content/titles.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;

/// UTF-16 begins with its mark.
std::string pdf_text(std::string_view literal) {
    const Bytes bytes(reinterpret_cast<const std::uint8_t*>(literal.data()), literal.size());
    return begins_with(bytes, "\xfe\xff"sv) ? from_utf16(bytes, true) : from_latin_1(bytes);
}

/// Where `mark` is in the content, from `at` on, within `most` bytes.
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

/// That dictionary, as far as it is plain text.
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

}  // namespace

std::string pdf_title(Content& content) {
    const auto dictionary = pdf_information(content);
    const auto title = dictionary.find("/Title");
    const auto open = title == std::string::npos ? title : dictionary.find_first_not_of(" \r\n", title + 6);
    if (open == std::string::npos || dictionary[open] != '(') return {};
    auto at = open;
    return as_title(pdf_text(pdf_literal(dictionary, at)));
}

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

}  // namespace undershelf::content
