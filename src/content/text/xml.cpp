// XML documents (W3C, Extensible Markup Language 1.0, fifth edition), SVG pictures and XHTML pages among
// them: well formed to the end of the outermost element.

#include "content/text/xml.hpp"

#include <expat.h>
#include <unicode/ucnv.h>

#include <algorithm>
#include <array>
#include <memory>
#include <new>

#include "content/characters.hpp"
#include "content/format.hpp"
#include "content/list.hpp"
#include "content/memory.hpp"
#include "content/text/markup.hpp"
#include "content/text/tags.hpp"
#include "content/text/text.hpp"
#include "content/text/xml_start.hpp"
#include "content/titles.hpp"
#include "content/words.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;

/// Documents nest some tens deep; each level takes memory.
constexpr int most_depth = 4096;
/// A picture may be in one tag, whose whole length the parser keeps.
constexpr std::uint64_t longest_tag = 64 << 20;

std::string_view without_prefix(std::string_view name) {
    const auto colon = name.rfind(':');
    return colon == std::string_view::npos ? name : name.substr(colon + 1);
}

/// Code pages of one byte a character, by ICU.
int single_byte_page(void*, const XML_Char* name, XML_Encoding* info) {
    UErrorCode status = U_ZERO_ERROR;
    const std::unique_ptr<UConverter, decltype(&ucnv_close)> page(ucnv_open(name, &status), &ucnv_close);
    if (U_FAILURE(status) || ucnv_getMaxCharSize(page.get()) != 1) return XML_STATUS_ERROR;
    for (int i = 0; i < 256; ++i) {
        const auto byte = static_cast<char>(i);
        std::array<UChar, 4> out{};
        status = U_ZERO_ERROR;
        const auto units = ucnv_toUChars(page.get(), out.data(), out.size(), &byte, 1, &status);
        info->map[i] = U_SUCCESS(status) && units == 1 ? out[0] : -1;
    }
    info->data = nullptr;
    info->convert = nullptr;
    info->release = nullptr;
    return XML_STATUS_OK;
}

class XmlReading {
  public:
    XmlReading(Content& content, const XmlTexts& texts)
        : content_(content),
          size_(content.size()),
          texts_(texts),
          parser_(XML_ParserCreate(nullptr), &XML_ParserFree) {
        if (!parser_) throw std::bad_alloc();
        XML_SetUserData(parser_.get(), this);
        XML_SetElementHandler(parser_.get(), &begins, &ends);
        if (texts_) XML_SetCharacterDataHandler(parser_.get(), &characters);
        XML_SetUnknownEncodingHandler(parser_.get(), &single_byte_page, nullptr);
        XML_SetParamEntityParsing(parser_.get(), XML_PARAM_ENTITY_PARSING_NEVER);
    }

    XmlRead run() {
        for (;;) {
            const auto waiting = fed_ - std::min(fed_, parsed());
            if (waiting > longest_tag) {
                out_.end = XmlEnd::too_much;
                out_.at = parsed();
                return out_;
            }
            // The parser begins an open tag anew with each part it gets: long tags get longer parts.
            const auto part =
                std::min<std::uint64_t>(std::max<std::uint64_t>(waiting, 64 << 10), size_ - fed_);
            const auto got = feed(static_cast<std::size_t>(part));
            if (!got) return stopped();
            fed_ += *got;
            if (*got < part || fed_ == size_) return at_end();
        }
    }

  private:
    std::uint64_t parsed() const {
        const auto at = XML_GetCurrentByteIndex(parser_.get());
        return at < 0 ? 0 : static_cast<std::uint64_t>(at);
    }
    /// How many bytes there were; nothing once the parser stops.
    std::optional<std::size_t> feed(std::size_t part) {
        // A tag is kept until it ends, in room that doubles.
        memory_.grow(4 * (fed_ - std::min(fed_, parsed())));
        auto* room = static_cast<std::uint8_t*>(XML_GetBuffer(parser_.get(), static_cast<int>(part)));
        if (!room) throw std::bad_alloc();
        const auto got = content_.read(fed_, {room, part});
        if (XML_ParseBuffer(parser_.get(), static_cast<int>(got), XML_FALSE) != XML_STATUS_OK)
            return std::nullopt;
        return got;
    }
    /// After the last byte that there is.
    XmlRead at_end() {
        const bool whole = XML_Parse(parser_.get(), nullptr, 0, XML_TRUE) == XML_STATUS_OK;
        if (!whole && closed_) return stopped();
        out_.end = whole && fed_ == size_ ? XmlEnd::whole : XmlEnd::cut;
        out_.at = fed_;
        return out_;
    }
    XmlRead stopped() {
        const auto error = XML_GetErrorCode(parser_.get());
        out_.at = std::min(parsed(), size_);
        if (error == XML_ERROR_NO_MEMORY) throw std::bad_alloc();
        if (closed_) {
            // What is after is another's.
            out_.end = XmlEnd::whole;
        } else if (error == XML_ERROR_ABORTED) {
            out_.end = XmlEnd::too_much;
        } else if (error == XML_ERROR_UNKNOWN_ENCODING || error == XML_ERROR_INCORRECT_ENCODING) {
            out_.end = XmlEnd::unknown;
        } else {
            out_.end = XmlEnd::broken;
            out_.why = XML_ErrorString(error);
        }
        return out_;
    }

    void structure_here() {
        const auto here = parsed();
        out_.density.add(here - std::min(here, last_));
        last_ = here;
    }
    static XmlReading& self(void* user) { return *static_cast<XmlReading*>(user); }
    static void begins(void* user, const XML_Char* name, const XML_Char**) {
        auto& me = self(user);
        me.structure_here();
        if (me.out_.root.empty()) me.out_.root = without_prefix(name);
        me.element_ = without_prefix(name);
        if (++me.depth_ > most_depth) XML_StopParser(me.parser_.get(), XML_FALSE);
    }
    static void ends(void* user, const XML_Char*) {
        auto& me = self(user);
        me.structure_here();
        me.element_.clear();
        me.closed_ = --me.depth_ == 0;
    }
    static void characters(void* user, const XML_Char* text, int length) {
        auto& me = self(user);
        if (!me.texts_(me.element_, {text, static_cast<std::size_t>(length)}))
            XML_StopParser(me.parser_.get(), XML_FALSE);
    }

    Content& content_;
    std::uint64_t size_, fed_ = 0;
    const XmlTexts& texts_;
    MemoryClaim memory_;
    std::unique_ptr<XML_ParserStruct, decltype(&XML_ParserFree)> parser_;
    XmlRead out_;
    std::string element_;
    std::uint64_t last_ = 0;
    int depth_ = 0;
    bool closed_ = false;
};

/// The word for a document with this outermost element.
std::string_view xml_format(std::string_view root) {
    if (root == "svg") return "svg";
    return root == "html" ? "html" : "xml";
}

class Xml final : public FormatReader {
  public:
    Recognised recognise(Bytes first) const override {
        const auto start = markup_start(first);
        if (start.declared) return {xml_format(start.root), 0.95};
        // Without a declaration it must at least begin well.
        if (start.root.empty() || start.is_html) return {};
        const bool wide = begins_with(first, "\xff\xfe"sv) || begins_with(first, "\xfe\xff"sv);
        const auto text = text_of(begins_with(first, "\xef\xbb\xbf"sv) ? first.subspan(3) : first);
        return {xml_format(start.root), wide || begins_well_formed(text) ? 0.9 : 0.0};
    }

    Check check(Content& content, const CheckLimits&) const override {
        const auto read = read_xml(content);
        Check out;
        out.format = xml_format(read.root);
        out.strength = read.end == XmlEnd::unknown ? Strength::weak : read.density.strength();
        switch (read.end) {
            case XmlEnd::whole:
                break;
            case XmlEnd::cut:
                out.cut = read.at == content.size();
                return out.fails(read.at, "it ends before its last tag");
            case XmlEnd::broken:
                // Many pages that say they are are not, and are shown all the same.
                if (out.format == "html") return check_as_text(content, out);
                return out.fails(read.at, "its markup is broken: " + std::string(read.why));
            case XmlEnd::too_much:
                out.finished = false;
                return out.fails(read.at, "its markup is deeper or longer than is read");
            case XmlEnd::unknown:
                return check_as_text(content, out);
        }
        return out.ends(read.at);
    }

    void text(Content& content, const TakeText& take) const override { markup_words(content, take); }
    std::string title(Content& content) const override {
        std::string title;
        bool inside = false;
        PartOfContent start(content, 0, std::min<std::uint64_t>(content.size(), 64 << 10));
        read_xml(start, [&](std::string_view element, std::string_view text) {
            constexpr std::size_t most = 400;
            inside = element == "title";
            if (inside) title += text;
            return title.empty() || (inside && title.size() < most);
        });
        return as_title(title);
    }
};

}  // namespace

XmlRead read_xml(Content& content, const XmlTexts& texts) {
    return XmlReading(content, texts).run();
}

namespace {

constexpr Format rows[] = {
    {.word = "svg",
     .name = "SVG picture",
     .kind = Kind::picture,
     .extensions = " svg ",
     .family = "markup",
     .strength = Strength::fair,
     .delay = 64 * KiB,
     .filling = Filling::text},
    {.word = "xml",
     .name = "XML document",
     .kind = Kind::text,
     .extensions = " xml xsl xslt xsd kml gpx rss plist xmp ts ",
     .family = "markup",
     .strength = Strength::fair,
     .delay = 64 * KiB,
     .filling = Filling::text},
};

}  // namespace

FormatRows xml_formats() {
    static const Xml reader;
    return {rows, &reader};
}

}  // namespace undershelf::content
