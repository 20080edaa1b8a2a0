// The words of an RTF document (Rich Text Format Specification 1.9.1).

#include "content/document/rtf_words.hpp"

#include <algorithm>
#include <cstdlib>
#include <utility>

#include "base/text.hpp"
#include "content/format.hpp"
#include "content/text/text.hpp"
#include "content/words.hpp"

namespace undershelf::content {

namespace {

/// Groups that hold no text of the document's.
constexpr std::string_view apart_groups =
    " fonttbl colortbl stylesheet info pict objdata datastore themedata listtable fldinst generator xmlnstbl "
    "rsidtbl ";
constexpr std::string_view line_ends = " par line tab cell row sect page column ";

class RtfWords {
  public:
    explicit RtfWords(Pieces& out) : out_(out) {}

    bool take(char c) {
        if (binary_ > 0) {
            --binary_;
        } else if (in_ == In::word && is_word(c)) {
            word_ += c;
        } else if (in_ == In::hex) {
            word_ += c;
            if (word_.size() == 2) character(static_cast<char>(std::strtoul(word_.c_str(), nullptr, 16)));
        } else if (in_ == In::backslash) {
            escaped(c);
        } else {
            if (in_ == In::word) control();
            if (c != ' ' || !std::exchange(after_word_, false)) plain(c);
            after_word_ = false;
        }
        return !out_.enough();
    }
    void flush() {
        out_.add(as_utf8({reinterpret_cast<const std::uint8_t*>(bytes_.data()), bytes_.size()},
                         Encoding::eight_bit, charset_));
        bytes_.clear();
    }

  private:
    enum class In : std::uint8_t { text, backslash, word, hex };

    bool is_word(char c) const {
        constexpr std::size_t longest = 40;
        return word_.size() < longest && ((c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') ||
                                          (c >= '0' && c <= '9') || (c == '-' && !word_.empty()));
    }
    void escaped(char c) {
        word_.clear();
        in_ = In::text;
        if (c == '\'') {
            in_ = In::hex;
        } else if (is_word(c)) {
            in_ = In::word;
            word_ = c;
        } else if (c == '*') {
            leave_out();
        } else if (c == '~') {
            character(' ');
        } else if (c == '{' || c == '}' || c == '\\') {
            character(c);
        }
    }
    void control() {
        in_ = In::text;
        after_word_ = true;
        const auto digits = std::min(word_.find_first_of("-0123456789"), word_.size());
        const auto name = word_.substr(0, digits);
        const auto number = std::strtol(word_.c_str() + digits, nullptr, 10);
        if (name == "bin") binary_ = static_cast<std::uint64_t>(std::clamp(number, 0l, 1l << 30));
        if (name == "ansicpg") charset_ = "windows-" + std::to_string(number);
        if (name == "uc") stand_ins_ = std::clamp(number, 0l, 16l);
        if (lists_word(apart_groups, name)) leave_out();
        if (lists_word(line_ends, name)) character('\n');
        if (name != "u" || left_out_at_ > 0) return;
        flush();
        out_.add(utf8_character(static_cast<std::uint32_t>(number < 0 ? number + 65536 : number)));
        skip_ = stand_ins_;
    }
    void plain(char c) {
        if (c == '\\') {
            in_ = In::backslash;
        } else if (c == '{') {
            ++depth_;
        } else if (c == '}') {
            if (left_out_at_ == depth_) left_out_at_ = 0;
            if (depth_ > 0) --depth_;
        } else if (c != '\r' && c != '\n') {
            character(c);
        }
    }
    void character(char c) {
        in_ = In::text;
        if (skip_ > 0) {
            --skip_;
        } else if (left_out_at_ == 0) {
            bytes_ += c;
        }
        constexpr std::size_t most = 4096;
        if (bytes_.size() >= most && c == ' ') flush();
    }
    void leave_out() {
        if (left_out_at_ == 0) left_out_at_ = std::max<std::uint64_t>(depth_, 1);
    }

    Pieces& out_;
    In in_ = In::text;
    std::string word_, bytes_, charset_;
    std::uint64_t depth_ = 0, left_out_at_ = 0, binary_ = 0;
    long stand_ins_ = 1, skip_ = 0;  ///< characters for those who do not know a \u
    bool after_word_ = false;        ///< one space there belongs to it
};

}  // namespace

void rtf_words(Content& content, const TakeText& take) {
    Pieces out(take);
    RtfWords words(out);
    Cursor at(content);
    for (bool more = true; more;) {
        const auto part = text_of(at.take(Cursor::window));
        more = !part.empty() && std::all_of(part.begin(), part.end(), [&](char c) { return words.take(c); });
    }
    words.flush();
    out.flush();
}

}  // namespace undershelf::content
