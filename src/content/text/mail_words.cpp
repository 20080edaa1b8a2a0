// What mail packs into plain characters (RFC 2045, RFC 2047), and the words of its texts.

#include <openssl/evp.h>

#include <algorithm>

#include "base/text.hpp"
#include "content/ascii.hpp"
#include "content/text/lines.hpp"
#include "content/text/mail.hpp"
#include "content/text/tags.hpp"
#include "content/text/text.hpp"
#include "content/words.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;

/// Follows heads and bodies, and gives out what they say.
class MailWords {
  public:
    explicit MailWords(Pieces& out) : out_(out), tags_(out) {}

    bool line(std::string_view text) {
        // Messages of a folder, and parts of a message, begin with a head again.
        const bool begins = in_body_ && ((blank_ && text.starts_with("From ")) || text.starts_with("--"));
        blank_ = text.empty();
        if (begins) {
            start_head();
        } else if (!in_body_) {
            head(text);
        } else {
            body(text);
        }
        return !out_.enough();
    }

  private:
    void start_head() {
        in_body_ = false;
        fields_.clear();
        out_.add("\n");
    }
    void head(std::string_view text) {
        const bool folded_line = !text.empty() && (text[0] == ' ' || text[0] == '\t');
        if (!text.empty() && !folded_line && field_name(text).empty() && fields_.empty()) {
            // It only looked like a seam.
            in_body_ = true;
            body(text);
            return;
        }
        constexpr std::size_t most = 256 << 10;
        if (fields_.size() < most) fields_.append(text).append("\n");
        if (!text.empty()) return;
        in_body_ = true;
        const auto type = lowered(header_field(fields_, "content-type"));
        const auto packing = lowered(header_field(fields_, "content-transfer-encoding"));
        charset_ = stated_charset(type);
        is_text_ = type.empty() || type.find("text/") != type.npos || type.find("message/") != type.npos;
        is_page_ = type.find("text/html") != type.npos;
        base64_ = packing.find("base64") != packing.npos;
        quoted_ = packing.find("quoted-printable") != packing.npos;
        for (const auto* name : {"subject", "from", "to", "cc"})
            out_.add(decoded_words(header_field(fields_, name)) + "\n");
    }

    void body(std::string_view text) {
        if (!is_text_) return;
        std::string bytes(text);
        bool goes_on = base64_;
        if (base64_) bytes = from_base64(text);
        if (quoted_) {
            goes_on = text.ends_with('=');
            bytes = from_quoted(text.substr(0, text.size() - goes_on));
        }
        const Bytes view(reinterpret_cast<const std::uint8_t*>(bytes.data()), bytes.size());
        // Lines may break a character of several bytes; such a one is lost.
        const auto encoding = encoding_of(view).value_or(Encoding::eight_bit);
        const auto words = as_utf8(view, encoding, charset_) + (goes_on ? "" : "\n");
        if (is_page_) {
            tags_.take(words);
        } else {
            out_.add(words);
        }
    }

    Pieces& out_;
    TagStripper tags_;
    std::string fields_, charset_;
    bool in_body_ = false, blank_ = false;
    bool is_text_ = true, is_page_ = false, base64_ = false, quoted_ = false;
};

}  // namespace

void mail_words(Content& content, const TakeText& take) {
    Pieces out(take);
    MailWords mail(out);
    for_each_line(
        content, [](Bytes part) { return part.size(); },
        [&](std::string_view line, std::uint64_t, std::uint64_t) { return mail.line(line); });
    out.flush();
}

std::string from_base64(std::string_view text) {
    text = text.substr(
        0, text.find_first_not_of("ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/"));
    // The decoder takes four digits at a time; what was cut off begins with zeros.
    std::string digits(text);
    digits.append((4 - digits.size() % 4) % 4, 'A');
    std::string out(digits.size() / 4 * 3, '\0');
    EVP_DecodeBlock(reinterpret_cast<unsigned char*>(out.data()),
                    reinterpret_cast<const unsigned char*>(digits.data()), static_cast<int>(digits.size()));
    out.resize(text.size() * 6 / 8);
    return out;
}
std::string from_quoted(std::string_view text, bool words) {
    std::string out;
    const auto value = [](char c) { return c <= '9' ? c - '0' : lower(c) - 'a' + 10; };
    for (std::size_t i = 0; i < text.size(); ++i) {
        if (text[i] == '=' && i + 2 < text.size()) {
            out += static_cast<char>(value(text[i + 1]) << 4 | (value(text[i + 2]) & 15));
            i += 2;
        } else {
            out += words && text[i] == '_' ? ' ' : text[i];
        }
    }
    return out;
}

std::string decoded_words(std::string_view text) {
    std::string out;
    bool after_word = false;
    while (!text.empty()) {
        const auto at = text.find("=?");
        const auto charset_end = at == text.npos ? at : text.find('?', at + 2);
        const auto data = charset_end == text.npos ? charset_end : charset_end + 3;
        const auto end = data == text.npos || data > text.size() ? text.npos : text.find("?=", data);
        if (end == text.npos) return out.append(text);
        // Space between two words belongs to neither.
        const auto before = text.substr(0, at);
        if (!after_word || before.find_first_not_of(" \t") != before.npos) out += before;
        const auto charset = std::string(text.substr(at + 2, charset_end - at - 2));
        const auto packed = text.substr(data, end - data);
        const auto bytes =
            lower(text[charset_end + 1]) == 'b' ? from_base64(packed) : from_quoted(packed, true);
        const Bytes view(reinterpret_cast<const std::uint8_t*>(bytes.data()), bytes.size());
        out += utf8_from_charset(view, charset.substr(0, charset.find('*'))).value_or(bytes);
        text.remove_prefix(end + 2);
        after_word = true;
    }
    return out;
}

}  // namespace undershelf::content
