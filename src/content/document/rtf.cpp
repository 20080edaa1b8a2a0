// RTF documents (Rich Text Format Specification 1.9.1): groups in braces, control words after backslashes,
// all of it plain characters, but for what \bin counts.

#include <fmt/format.h>

#include <algorithm>

#include "base/text.hpp"
#include "content/characters.hpp"
#include "content/density.hpp"
#include "content/document/rtf_words.hpp"
#include "content/format.hpp"
#include "content/list.hpp"
#include "content/text/text.hpp"
#include "content/titles.hpp"
#include "content/words.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;

bool is_letter(std::uint8_t b) {
    return (b >= 'a' && b <= 'z') || (b >= 'A' && b <= 'Z');
}
bool is_digit(std::uint8_t b) {
    return b >= '0' && b <= '9';
}
bool is_hex(std::uint8_t b) {
    return is_digit(b) || (b >= 'a' && b <= 'f') || (b >= 'A' && b <= 'F');
}

class RtfCheck {
  public:
    Check run(Content& content) {
        out_.format = "rtf";
        Cursor at(content);
        while (at.at() < content.size()) {
            const auto start = at.at();
            const auto part = at.take(Cursor::window);
            if (part.empty()) return failed(start, "bytes of it are missing");
            for (std::size_t i = 0; i < part.size(); ++i) {
                if (!take(part[i], start + i)) return done(content);
            }
        }
        // Where a brace is missing nothing tells, once others were taken for it.
        if (last_ + trailing >= content.size() && closes_) return failed(0, "its braces do not match");
        out_.cut = true;
        return failed(content.size(), "it ends before its last brace");
    }

  private:
    static constexpr std::uint64_t trailing = 4;  ///< bytes after the last brace
    enum class In : std::uint8_t { text, backslash, word, number, binary };

    /// False after the last brace, or where it is no RTF any more.
    bool take(std::uint8_t b, std::uint64_t at) {
        if (in_ == In::binary) {
            if (--binary_ == 0) in_ = In::text;
            return true;
        }
        if (is_stray_control(b)) return stops(at, "it turns into other data");
        switch (in_) {
            case In::backslash:
                in_ = is_letter(b) ? In::word : In::text;
                word_.assign(1, static_cast<char>(b));
                number_ = 0;
                return true;
            case In::word:
                if (is_letter(b)) {
                    constexpr std::size_t longest = 32;
                    word_.push_back(static_cast<char>(b));
                    return word_.size() <= longest || stops(at, "a control word is longer than any");
                }
                in_ = In::number;
                if (b == '-') return true;
                [[fallthrough]];
            case In::number:
                if (is_digit(b)) {
                    if (number_ < 1u << 28) number_ = number_ * 10 + (b - '0');
                    return true;
                }
                in_ = word_ == "bin" && number_ > 0 ? In::binary : In::text;
                binary_ = number_;
                if (b == ' ') return true;
                if (in_ == In::binary) {
                    if (--binary_ == 0) in_ = In::text;
                    return true;
                }
                break;
            default:
                break;
        }
        return plain(b, at);
    }

    bool plain(std::uint8_t b, std::uint64_t at) {
        if (is_hex(b)) {
            ++hex_;
            return true;
        }
        if (b == '\r' || b == '\n') return true;
        // Pictures are long runs of digits; only a group's end stops them.
        constexpr std::uint64_t picture = 128;
        const bool structure = b == '{' || b == '}' || b == '\\';
        if (hex_ >= picture && !structure && b != ' ') return stops(at, "a picture's digits end early");
        if (structure) {
            const auto distance = at - last_;
            const auto seen = std::min(hex_ >= picture ? hex_ : 0, distance);
            density_.add_decoded(seen);
            density_.add(distance - seen);
            last_ = at;
            closes_ = b == '}';
        }
        hex_ = 0;
        if (b == '\\') in_ = In::backslash;
        if (b == '{') ++depth_;
        if (b == '}' && --depth_ == 0) {
            out_.ends(at + 1);
            return false;
        }
        return true;
    }

    bool stops(std::uint64_t at, const char* why) {
        out_.fails(at, why);
        return false;
    }
    Check& failed(std::uint64_t at, const char* why) {
        out_.strength = density_.strength();
        return out_.fails(at, why);
    }
    /// Line ends may follow, or one zero at the very end: rich text controls write it, since their text ends
    /// with one in memory.
    Check& done(Content& content) {
        out_.strength = density_.strength();
        if (!out_.complete) return out_;
        std::uint8_t behind[4];
        const auto got = content.read(out_.holds_to, behind);
        std::size_t more = 0;
        while (more < got && (behind[more] == '\r' || behind[more] == '\n')) ++more;
        if (more < got && behind[more] == 0) {
            const bool last = out_.holds_to + more + 1 == content.size();
            more += last;
            out_.loose_end = !last;
        }
        return out_.ends(out_.holds_to + more);
    }

    Check out_;
    Density density_;
    In in_ = In::text;
    std::string word_;
    std::uint64_t number_ = 0, binary_ = 0, hex_ = 0, last_ = 0;
    std::uint64_t depth_ = 0;
    bool closes_ = false;  ///< the last structure is a group's end
};

class Rtf final : public FormatReader {
  public:
    bool all_our_own() const override { return true; }
    Recognised recognise(Bytes first) const override {
        return {"rtf", begins_with(first, "{\\rtf") ? 1.0 : 0.0};
    }
    Check check(Content& content, const CheckLimits&) const override { return RtfCheck().run(content); }

    void text(Content& content, const TakeText& take) const override { rtf_words(content, take); }
    /// Of the information group.
    std::string title(Content& content) const override {
        const auto start = text_start(content);
        const auto info = start.find("{\\info");
        const auto at = info == start.npos ? info : start.find("{\\title", info);
        return at == start.npos ? std::string()
                                : as_title(plain_text(std::string_view(start).substr(at + 7)));
    }

  private:
    /// To the group's end: characters by number (\uN, \'hh of Windows-1252) and no other control words.
    static std::string plain_text(std::string_view text) {
        std::string out;
        constexpr std::size_t most = 1000;
        for (std::size_t i = 0; i < text.size() && i < most && text[i] != '}';) {
            if (text[i] != '\\') {
                if (text[i] != '{' && text[i] != '\r' && text[i] != '\n') out += text[i];
                ++i;
                continue;
            }
            ++i;
            if (i + 2 < text.size() && text[i] == '\'') {
                const auto value = std::stoul("0" + hex_at(text.substr(i + 1, 2)), nullptr, 16);
                const auto byte = static_cast<std::uint8_t>(value);
                out += as_utf8({&byte, 1}, Encoding::eight_bit);
                i += 3;
                continue;
            }
            const auto word = i;
            while (i < text.size() && is_letter(static_cast<std::uint8_t>(text[i]))) ++i;
            if (word == i) {
                if (i < text.size()) out += text[i++];  // an escaped brace
                continue;
            }
            const bool character = text.substr(word, i - word) == "u";
            const auto number = i;
            if (i < text.size() && text[i] == '-') ++i;
            while (i < text.size() && is_digit(static_cast<std::uint8_t>(text[i]))) ++i;
            if (character && i > number && i - number < 8) {
                const auto n = std::stoi("0" + std::string(text.substr(number + (text[number] == '-'), 7)));
                out += utf8_character(static_cast<std::uint32_t>(text[number] == '-' ? 65536 - n : n));
                ++i;  // what stands for it where it is not known
            } else if (i < text.size() && text[i] == ' ') {
                ++i;
            }
        }
        return out;
    }
    static std::string hex_at(std::string_view text) {
        std::string out;
        for (const char c : text) {
            if (!is_hex(static_cast<std::uint8_t>(c))) break;
            out += c;
        }
        return out;
    }
};

constexpr Format rows[] = {
    {.word = "rtf",
     .name = "RTF document",
     .kind = Kind::document,
     .extensions = " rtf doc ",
     .family = "rtf",
     .strength = Strength::fair,
     .marks = "{\\"sv},
};

}  // namespace

FormatRows rtf_formats() {
    static const Rtf reader;
    return {rows, &reader};
}

}  // namespace undershelf::content
