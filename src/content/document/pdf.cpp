// PDF (ISO 32000-1): objects, a table of where they are, and `startxref` with the table's place before the
// end mark; every revision adds such an end. Streams that are deflated carry an Adler-32, and are inflated to
// see that they hold.

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <string>

#include "content/archive/inflate.hpp"
#include "content/document/pdf_details.hpp"
#include "content/document/pdf_words.hpp"
#include "content/format.hpp"
#include "content/list.hpp"
#include "content/picture/jpeg.hpp"
#include "content/titles.hpp"
#include "content/words.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;

constexpr std::size_t longest_line = 4096;

bool is_space(std::uint8_t c) {
    return c == ' ' || c == '\t' || c == '\r' || c == '\n' || c == '\f' || c == 0;
}

class PdfCheck {
  public:
    PdfCheck(Content& content, const CheckLimits& limits)
        : content_(content),
          at_(content),
          output_(limits.most_output),
          most_searched_(limits.most_searched) {}

    Check run() {
        out_.format = "pdf";
        out_.strength = Strength::fair;
        std::string dictionary;  // what is between the last object's start and here, as far as it matters
        for (;;) {
            const auto start = at_.at();
            const auto line = next_line();
            if (line.empty()) break;
            if (!is_text(line) && start > binary_comment_until)
                return ends_before(start, "what is there is no part of it");
            const auto text = text_of(line);
            if (text.find("startxref") != std::string_view::npos) {
                const auto before = end_;
                if (!read_end(start + text.find("startxref"))) break;
                dictionary.clear();
                if (end_ == before) continue;
                revision_under_way_ = goes_on();
                if (!revision_under_way_) break;
                continue;
            }
            if (text.find(" obj") != std::string_view::npos) dictionary.clear();
            dictionary.append(text.substr(0, most_dictionary - std::min(most_dictionary, dictionary.size())));
            const auto keyword = stream_keyword(text);
            if (keyword == std::string_view::npos) continue;
            at_.go_to(start + keyword);
            if (!skip_stream(dictionary)) return ends_before(start, trouble_);
            dictionary.clear();
        }
        return ends_before(at_.at(), "it ends before its end mark");
    }

  private:
    static constexpr std::size_t most_dictionary = 64 << 10;
    /// After the first line mostly is a comment of bytes above 127.
    static constexpr std::uint64_t binary_comment_until = 64;

    /// The last end that was met is the file's, if there was one.
    Check ends_before(std::uint64_t at, const std::string& why) {
        // Of streams that are packed in other ways, or not at all, nothing is known but their lengths.
        const bool ends = end_ > 0 && !revision_under_way_;
        if (unproven_ > (ends ? end_ : content_.size()) / 50) out_.strength = Strength::weak;
        return ends ? out_.ends(end_) : out_.fails(at, why);
    }

    /// After an end is either another revision, which begins with an object or a table, or nothing of
    /// this file.
    bool goes_on() {
        const auto text = text_of(at_.peek(40));
        const auto first = text.find_first_not_of(" \r\n\t");
        if (first == std::string_view::npos) return false;
        const auto digits = text.find_first_not_of("0123456789 ", first);
        const bool object =
            digits != std::string_view::npos && digits > first && text.substr(digits).starts_with("obj");
        return object || text.substr(first).starts_with("xref");
    }

    /// Up to and with the next line end; longer ones in parts.
    Bytes next_line() {
        const auto bytes = at_.peek(longest_line);
        const auto it =
            std::find_if(bytes.begin(), bytes.end(), [](std::uint8_t c) { return c == '\n' || c == '\r'; });
        const auto length =
            it == bytes.end() ? bytes.size() : static_cast<std::size_t>(it - bytes.begin()) + 1;
        return at_.take(length);
    }

    /// Outside of streams there are texts, but for strings, which are short and may hold any byte.
    static bool is_text(Bytes line) {
        const auto odd = std::count_if(line.begin(), line.end(),
                                       [](std::uint8_t c) { return (c < 32 && !is_space(c)) || c > 126; });
        return odd <= static_cast<std::ptrdiff_t>(line.size() / 3 + 32);
    }

    /// Where the data of a stream begin in this text; npos when none does.
    static std::size_t stream_keyword(std::string_view text) {
        for (auto at = text.find("stream"); at != std::string_view::npos; at = text.find("stream", at + 1)) {
            const bool ends = at >= 3 && text.substr(at - 3, 3) == "end";
            const auto behind = at + 6;
            const bool begins =
                at == 0 || is_space(static_cast<std::uint8_t>(text[at - 1])) || text[at - 1] == '>';
            if (!ends && begins && behind < text.size() &&
                (text[behind] == '\n' || text[behind] == '\r' || text[behind] == ' '))
                return behind;
        }
        return std::string_view::npos;
    }

    /// The number after a key, unless it is a reference to another object.
    static std::optional<std::uint64_t> number_of(std::string_view dictionary, std::string_view key) {
        auto at = dictionary.rfind(key);
        if (at == std::string_view::npos) return std::nullopt;
        at += key.size();
        while (at < dictionary.size() && is_space(static_cast<std::uint8_t>(dictionary[at]))) ++at;
        std::uint64_t out = 0;
        const auto* end = dictionary.data() + dictionary.size();
        const auto [behind, ec] = std::from_chars(dictionary.data() + at, end, out);
        if (ec != std::errc{}) return std::nullopt;
        const std::string_view rest(behind, std::min<std::size_t>(8, static_cast<std::size_t>(end - behind)));
        const bool reference = rest.size() > 3 && rest[0] == ' ' &&
                               rest.find('R') != std::string_view::npos && rest.find('/') > rest.find('R');
        return reference ? std::nullopt : std::optional(out);
    }

    bool fails(std::string why) {
        trouble_ = std::move(why);
        return false;
    }

    bool skip_stream(const std::string& dictionary) {
        // The line end after the keyword is not data.
        while (begins_with(at_.peek(1), " ")) at_.take(1);
        if (begins_with(at_.peek(1), "\r")) at_.take(1);
        if (begins_with(at_.peek(1), "\n")) at_.take(1);
        const auto data = at_.at();
        const auto filter = dictionary.find("/Filter");
        const auto flate = dictionary.find("/FlateDecode"), encrypted = dictionary.find("/Crypt");
        const bool first_filter =
            filter != std::string::npos && flate != std::string::npos && flate > filter &&
            dictionary.substr(filter + 1, flate - filter - 1).find('/') == std::string::npos;
        const auto length = number_of(dictionary, "/Length");
        if (first_filter && encrypted == std::string::npos && begins_like_zlib()) {
            const auto r = inflate_at(at_, Wrapping::zlib, output_, nullptr);
            if (r.end == InflateEnd::whole && find_end_of_stream(16)) return true;
            at_.go_to(data);
            if (r.end == InflateEnd::too_much) out_.finished = false;
            if (r.end != InflateEnd::whole) return fails("the data of a stream make no sense");
        }
        if (!(length && told_end_holds(data, *length))) {
            at_.go_to(data);
            if (!find_end_of_stream(most_searched_)) return fails("a stream has no end");
        }
        const auto size = at_.at() - data;
        const bool picture =
            dictionary.find("/DCTDecode") != std::string::npos && encrypted == std::string::npos;
        if (!picture) {
            unproven_ += size;
            return true;
        }
        PartOfContent part(content_, data, size);
        return jpeg().check(part, {}).complete || fails("the data of a picture in it make no sense");
    }

    bool begins_like_zlib() {
        const auto b = at_.peek(2);
        return b.size() == 2 && (b[0] & 15) == 8 && (b[0] * 256 + b[1]) % 31 == 0;
    }

    bool told_end_holds(std::uint64_t data, std::uint64_t length) {
        if (length > content_.size() - std::min(content_.size(), data)) return false;
        at_.go_to(data + length);
        return find_end_of_stream(16);
    }

    /// Goes on after the next `endstream`, which begins no further off than this.
    bool find_end_of_stream(std::uint64_t furthest) {
        const auto mark = "endstream"sv;
        const auto start = at_.at();
        while (at_.at() - start <= furthest) {
            const auto window = at_.peek(Cursor::window);
            const auto found = text_of(window).find(mark);
            if (found != std::string_view::npos) {
                if (at_.at() + found - start > furthest) return false;
                at_.take(found + mark.size());
                return true;
            }
            if (window.size() < Cursor::window) return false;
            at_.take(window.size() - mark.size());
        }
        return false;
    }

    /// Reads the place of a table and the end mark. False when a later end cannot be this file's.
    bool read_end(std::uint64_t start) {
        at_.go_to(start + 9);
        const auto bytes = at_.peek(64);
        const auto text = text_of(bytes);
        std::size_t i = 0;
        while (i < text.size() && is_space(bytes[i])) ++i;
        std::uint64_t table = 0;
        const auto [behind, ec] = std::from_chars(text.data() + i, text.data() + text.size(), table);
        const auto mark = text.find("%%EOF");
        if (ec != std::errc{} || mark == std::string_view::npos) return true;
        auto end = start + 9 + mark + 5;
        at_.go_to(end);
        // With one line end, which belongs to it.
        if (begins_with(at_.peek(1), "\r")) at_.take(1);
        if (begins_with(at_.peek(1), "\n")) at_.take(1);
        // A file made for reading page by page has a first end without a place.
        if (table == 0 && end_ == 0) return true;
        const bool follows = end_ == 0 || (table >= end_ && names_previous(table, start));
        if (table < start && is_table(table) && follows) {
            end_ = at_.at();
            table_ = table;
            return true;
        }
        if (end_ == 0) return true;
        at_.go_to(start);
        return false;
    }

    /// Does the table of a later revision say where the one before is?
    bool names_previous(std::uint64_t table, std::uint64_t start) {
        const auto back = at_.at();
        constexpr std::uint64_t most = 60 << 10;
        const auto from = start - table > most ? start - most : table;
        at_.go_to(from);
        const auto before = at_.peek(static_cast<std::size_t>(start - from));
        const std::string text(before.begin(), before.end());
        at_.go_to(table);
        const auto head = at_.peek(2048);
        at_.go_to(back);
        const auto says = [&](std::string_view t) { return number_of(t, "/Prev") == table_; };
        return says(text) || says(text_of(head));
    }

    /// `xref`, or an object that is one.
    bool is_table(std::uint64_t place) {
        const auto back = at_.at();
        at_.go_to(place);
        const auto text = text_of(at_.peek(40));
        const auto first = text.find_first_not_of(" \r\n\t");
        const bool table = first != std::string_view::npos && (text.substr(first).starts_with("xref") ||
                                                               text.find(" obj") != std::string_view::npos);
        at_.go_to(back);
        return table;
    }

    Content& content_;
    Cursor at_;
    Check out_;
    OutputBound output_;
    std::uint64_t most_searched_;
    std::uint64_t end_ = 0;    ///< of the last revision that is whole
    std::uint64_t table_ = 0;  ///< where its table is
    bool revision_under_way_ = false;
    std::uint64_t unproven_ = 0;  ///< bytes of streams
    std::string trouble_;
};

class Pdf final : public FormatReader {
  public:
    Recognised recognise(Bytes first) const override {
        return {"pdf", begins_with(first, "%PDF-"sv) && first.size() > 7 && first[5] >= '1' && first[5] <= '2'
                           ? 1.0
                           : 0.0};
    }
    void text(Content& content, const TakeText& take) const override { pdf_words(content, take); }
    std::string title(Content& content) const override { return pdf_title(content); }
    InnerDates dates(Content& content) const override { return pdf_dates(content); }
    ContentDetails details(Content& content) const override { return pdf_details(content); }
    Check check(Content& content, const CheckLimits& limits) const override {
        return PdfCheck(content, limits).run();
    }
};

constexpr OtherKind pictures[] = {{Kind::picture, " ai "}};
constexpr Format rows[] = {
    {.word = "pdf",
     .name = "PDF document",
     .kind = Kind::document,
     .extensions = " pdf ai ",
     .others = pictures,
     .shared = " ai ",
     .family = "pdf",
     .strength = Strength::fair,
     .delay = 64 * KiB,
     .filling = Filling::no_zeros,
     .holds_files = true,
     .marks = "%P"sv},
};

}  // namespace

FormatRows pdf_formats() {
    static const Pdf reader;
    return {rows, &reader};
}

}  // namespace undershelf::content
