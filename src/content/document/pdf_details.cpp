#include "content/document/pdf_details.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <charconv>

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

/// What a dictionary of the page tree says of pages; and pages themselves.
struct Pages {
    std::uint64_t said = 0, seen = 0;
};

/// The number after /Count in the dictionary around `at`.
std::uint64_t count_around(std::string_view text, std::size_t at) {
    constexpr std::size_t before = 2048, after = 128 << 10;  // bytes
    const auto from = at - std::min(at, before);
    const auto open = text.substr(from, at - from).rfind("obj"sv);
    const auto node = text.substr(open == text.npos ? at : from + open, after);
    const auto count = node.substr(0, node.find("endobj"sv)).find("/Count"sv);
    if (count == node.npos) return 0;
    const auto digits = node.find_first_not_of(" \r\n", count + 6);
    std::uint64_t out = 0;
    if (digits != node.npos) std::from_chars(node.data() + digits, node.data() + node.size(), out);
    return out;
}

void take_pages(std::string_view text, Pages& out) {
    constexpr int most_nodes = 500;  // whose numbers are looked for: no more than this costs a moment
    int nodes = 0;
    for (auto at = text.find("/Type"sv); at != text.npos; at = text.find("/Type"sv, at + 1)) {
        const auto word = text.find_first_not_of(" \r\n", at + 5);
        if (word == text.npos || !text.substr(word).starts_with("/Page")) continue;
        if (text.substr(word).starts_with("/Pages")) {
            if (++nodes <= most_nodes) out.said = std::max(out.said, count_around(text, at));
            continue;
        }
        const auto next = text.substr(word + 5, 1);
        out.seen += next.empty() || std::isalpha(static_cast<unsigned char>(next[0])) == 0;
    }
}

}  // namespace

ContentDetails pdf_details(Content& content) {
    constexpr std::uint64_t part = 16 << 20;
    Pages pages;
    const auto first = text_at(content, 0, static_cast<std::size_t>(std::min(content.size(), part)));
    take_pages(first, pages);
    if (content.size() > part) {
        const auto from = std::max(part, content.size() - std::min(content.size(), part));
        take_pages(text_at(content, from, static_cast<std::size_t>(content.size() - from)), pages);
    }
    ContentDetails out;
    const auto number = pages.said ? pages.said : pages.seen;
    if (number > 0 && number <= 10'000'000) out.pages = static_cast<std::uint32_t>(number);
    return out;
}

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
