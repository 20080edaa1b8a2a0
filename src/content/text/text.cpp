// Plain texts: prose, tables, programs, settings. Told by what they do not contain.

#include "content/text/text.hpp"

#include <algorithm>

#include "base/text.hpp"
#include "content/format.hpp"
#include "content/list.hpp"
#include "content/text/tags.hpp"
#include "content/titles.hpp"
#include "content/words.hpp"

namespace undershelf::content {

namespace {

class Text final : public FormatReader {
  public:
    /// Less sure than whatever has a start of its own.
    bool all_our_own() const override { return true; }
    Recognised recognise(Bytes first) const override {
        return {"text", encoding_of(first) ? sure_of_text : 0.0};
    }
    Check check(Content& content, const CheckLimits&) const override {
        Check out;
        out.format = "text";
        return check_as_text(content, out);
    }
    void text(Content& content, const TakeText& take) const override { plain_words(content, take); }
    /// A table of rows of as many fields, or values in brackets.
    std::string_view extension(Content& content) const override {
        const auto start = text_start(content);
        if (const auto separator = separator_of_rows(start)) return *separator == '\t' ? "tsv" : "csv";
        const auto at = start.find_first_not_of(" \t\r\n");
        const bool brackets = at != start.npos && (start.compare(at, 2, "{\"") == 0 || start[at] == '[' ||
                                                   start.compare(at, 2, "{\n") == 0);
        if (!brackets) return {};
        Cursor end(content, content.size() - std::min<std::uint64_t>(content.size(), 16));
        const auto last = std::string(text_of(end.peek(16)));
        const auto close = last.find_last_not_of(" \t\r\n");
        return close != last.npos && (last[close] == '}' || last[close] == ']') ? "json" : std::string_view();
    }
};

}  // namespace

std::optional<char> separator_of_rows(std::string_view text) {
    constexpr std::size_t looked_at = 5, least_fields = 3;
    for (const char separator : {',', ';', '\t', '|'}) {
        std::vector<std::ptrdiff_t> marks;
        for (std::size_t at = 0; marks.size() < looked_at;) {
            const auto end = text.find('\n', at);
            if (end == text.npos) break;
            const auto row = text.substr(at, end - at);
            marks.push_back(std::count(row.begin(), row.end(), separator));
            at = end + 1;
        }
        // The first row may have lost a part.
        if (marks.size() == looked_at && marks[1] + 1 >= static_cast<std::ptrdiff_t>(least_fields) &&
            std::all_of(marks.begin() + 1, marks.end(), [&](std::ptrdiff_t n) { return n == marks[1]; }))
            return separator;
    }
    return std::nullopt;
}

Check& check_as_text(Content& content, Check& out) {
    out.strength = Strength::weak;
    Cursor at(content);
    TextScan scan(encoding_of(at.peek(4096)).value_or(Encoding::eight_bit));
    while (at.at() < content.size()) {
        const auto start = at.at();
        const auto part = at.take(Cursor::window);
        if (part.empty()) return out.fails(start, "bytes of it are missing");
        if (!scan.take(part))
            return out.fails(*scan.broken_at(), scan.turns_into_zeros() ? "the text turns into zeros"
                                                                        : "the text turns into other data");
    }
    return out.ends(content.size());
}

std::string stated_charset(std::string_view start) {
    for (const std::string_view key : {"charset=", "encoding="}) {
        for (auto at = start.find(key); at != std::string_view::npos; at = start.find(key, at + 1)) {
            auto name = start.substr(at + key.size(), 40);
            if (!name.empty() && (name[0] == '"' || name[0] == '\'')) name.remove_prefix(1);
            const auto end = std::find_if_not(name.begin(), name.end(), [](char c) {
                return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') ||
                       c == '-' || c == '_' || c == '.' || c == ':';
            });
            if (end != name.begin()) return {name.begin(), end};
        }
    }
    return {};
}

std::string charset_of(Bytes start, Encoding encoding) {
    constexpr std::size_t most = 4096;
    const auto first = start.first(std::min(start.size(), most));
    auto stated = stated_charset(text_of(first));
    return stated.empty() && encoding == Encoding::eight_bit ? likely_charset(first) : stated;
}

std::string as_utf8(Bytes bytes, Encoding encoding, const std::string& charset) {
    switch (encoding) {
        case Encoding::utf16_le:
        case Encoding::utf16_be:
            return from_utf16(bytes, encoding == Encoding::utf16_be);
        case Encoding::utf8:
            return composed(text_of(begins_with(bytes, "\xef\xbb\xbf") ? bytes.subspan(3) : bytes));
        case Encoding::eight_bit:
            break;
    }
    // Pages that say Latin-1 mean Windows-1252 (WHATWG, Encoding, 4.2).
    if (auto stated = charset.empty() || lists_word(" iso-8859-1 latin1 us-ascii ", folded(charset))
                          ? std::nullopt
                          : utf8_from_charset(bytes, charset))
        return *stated;
    return utf8_from_charset(bytes, "windows-1252").value_or(std::string());
}

std::string text_start(Content& content) {
    constexpr std::uint64_t most = 64 << 10;
    ByteVector bytes(static_cast<std::size_t>(std::min(content.size(), most)));
    bytes.resize(content.read(0, bytes));
    const auto encoding = encoding_of(Bytes(bytes).first(std::min<std::size_t>(bytes.size(), 4096)))
                              .value_or(Encoding::eight_bit);
    return as_utf8(bytes, encoding, charset_of(bytes, encoding));
}

namespace {

constexpr OtherKind others[] = {
    {Kind::mail, " vcf ics "}, {Kind::database, " sql "}, {Kind::program, " py js pl rb sh bat cmd ps1 "}};
constexpr Format rows[] = {
    {.word = "text",
     .name = "text",
     .kind = Kind::text,
     .extensions = " txt text csv tsv md log json yaml yml ini cfg conf tex bib css c cc cpp h hpp java rst "
                   "srt vtt toml vcf ics sql py js pl rb sh bat cmd ps1 nfo ts ",
     .others = others,
     .family = "text",
     .strength = Strength::weak,
     .delay = 4 * KiB,
     .filling = Filling::text},
};

}  // namespace

FormatRows text_formats() {
    static const Text reader;
    return {rows, &reader};
}

}  // namespace undershelf::content
