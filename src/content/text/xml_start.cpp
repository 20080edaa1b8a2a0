#include "content/text/xml_start.hpp"

#include <algorithm>
#include <string>
#include <vector>

#include "base/printable.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;

/// The last character may be cut.
bool is_utf8(std::string_view text) {
    constexpr std::size_t longest = 4;
    for (std::size_t at = 0; at < text.size();) {
        const auto from = at;
        constexpr char32_t begins_none = 0xFFFF;
        if (next_character(text, at) == begins_none) return text.size() - from < longest;
    }
    return true;
}

/// The text ends here: what there is contradicts nothing.
struct Cut {};
/// This is no XML.
struct NotXml {};

bool is_blank(char c) {
    return c == ' ' || c == '\t' || c == '\r' || c == '\n';
}
bool begins_name(char c) {
    const auto lower = static_cast<char>(c | 0x20);
    return (lower >= 'a' && lower <= 'z') || c == '_' || c == ':' || static_cast<unsigned char>(c) >= 0x80;
}
bool is_of_name(char c) {
    return begins_name(c) || (c >= '0' && c <= '9') || c == '-' || c == '.';
}

class Scanner {
  public:
    explicit Scanner(std::string_view text) : all_(text), rest_(text) {}

    bool run() {
        try {
            while (!ended_) next();
        } catch (const Cut&) {
            rest_ = {};
        } catch (const NotXml&) {
            return false;
        }
        return is_utf8(all_.substr(0, all_.size() - rest_.size()));
    }

  private:
    void next() {
        characters();
        if (skip("<!--")) return comment();
        if (skip("<?")) return past("?>");
        if (skip("<![CDATA[")) return open_.empty() ? throw NotXml() : past("]]>");
        if (skip("<!DOCTYPE")) return doctype();
        if (skip("</")) return end_tag();
        if (skip("<")) return start_tag();
        throw NotXml();
    }

    /// Up to the next `<`. Outside of the outermost element nothing but blanks.
    void characters() {
        while (peek() != '<') {
            const char c = take();
            const bool control = static_cast<unsigned char>(c) < 0x20 && !is_blank(c);
            if (control || (open_.empty() && !is_blank(c))) throw NotXml();
            if (c == '&') reference();
        }
    }

    void reference() {
        const auto end = rest_.find(';');
        constexpr std::size_t longest = 64;
        if (end == std::string_view::npos && rest_.size() < longest) throw Cut();
        if (end == std::string_view::npos || end == 0 || end > longest) throw NotXml();
        const auto name = rest_.substr(0, end);
        constexpr std::string_view known[] = {"amp", "lt", "gt", "apos", "quot"};
        const bool is_known = std::find(std::begin(known), std::end(known), name) != std::end(known);
        // What a document type declares is not looked up.
        if (name[0] != '#' && !is_known && !has_type_) throw NotXml();
        rest_.remove_prefix(end + 1);
    }

    void comment() {
        past("--");
        if (take() != '>') throw NotXml();
    }

    void doctype() {
        if (has_type_ || !open_.empty()) throw NotXml();
        has_type_ = true;
        for (int inside = 0;;) {
            const char c = take();
            if (c == '"' || c == '\'') past(std::string_view(&c, 1));
            inside += c == '[' ? 1 : c == ']' ? -1 : 0;
            if (c == '>' && inside <= 0) return;
        }
    }

    void start_tag() {
        const auto tag = name();
        std::vector<std::string_view> seen;
        for (;;) {
            const bool blank = blanks();
            if (skip("/>")) break;
            if (skip(">")) {
                open_.push_back(tag);
                return;
            }
            if (!blank) throw NotXml();
            const auto attribute = name();
            if (std::find(seen.begin(), seen.end(), attribute) != seen.end()) throw NotXml();
            seen.push_back(attribute);
            blanks();
            if (take() != '=') throw NotXml();
            blanks();
            value();
        }
        ended_ = open_.empty();
    }

    void value() {
        const char quote = take();
        if (quote != '"' && quote != '\'') throw NotXml();
        for (char c = take(); c != quote; c = take()) {
            if (c == '<') throw NotXml();
            if (c == '&') reference();
        }
    }

    void end_tag() {
        const auto tag = name();
        blanks();
        if (take() != '>' || open_.empty() || open_.back() != tag) throw NotXml();
        open_.pop_back();
        ended_ = open_.empty();
    }

    std::string_view name() {
        if (!begins_name(peek())) throw NotXml();
        const auto* const end = std::find_if_not(rest_.begin(), rest_.end(), is_of_name);
        if (end == rest_.end()) throw Cut();
        const auto out = rest_.substr(0, static_cast<std::size_t>(end - rest_.begin()));
        rest_.remove_prefix(out.size());
        return out;
    }

    bool blanks() {
        bool any = false;
        for (; is_blank(peek()); any = true) take();
        return any;
    }

    /// Takes `text` where it comes next. Throws Cut where the end leaves that open.
    bool skip(std::string_view text) {
        if (rest_.size() < text.size() && text.starts_with(rest_)) throw Cut();
        if (!rest_.starts_with(text)) return false;
        rest_.remove_prefix(text.size());
        return true;
    }
    void past(std::string_view mark) {
        const auto at = rest_.find(mark);
        if (at == std::string_view::npos) throw Cut();
        rest_.remove_prefix(at + mark.size());
    }
    char peek() const { return rest_.empty() ? throw Cut() : rest_.front(); }
    char take() {
        const char c = peek();
        rest_.remove_prefix(1);
        return c;
    }

    std::string_view all_, rest_;
    std::vector<std::string_view> open_;
    bool has_type_ = false, ended_ = false;
};

}  // namespace

bool begins_well_formed(std::string_view text) {
    return Scanner(text).run();
}

}  // namespace undershelf::content
