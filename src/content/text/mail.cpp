// Mail: single messages (RFC 5322, MIME) and folders of them (mbox, RFC 4155). A message of several parts
// says where the last one ends; what is packed into characters has lines of nothing else.

#include "content/text/mail.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "base/text.hpp"
#include "content/ascii.hpp"
#include "content/format.hpp"
#include "content/list.hpp"
#include "content/text/lines.hpp"
#include "content/text/text.hpp"
#include "content/titles.hpp"
#include "content/words.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;

/// Takes the first line off, without its end.
std::string_view next_line(std::string_view& text) {
    const auto end = text.find('\n');
    auto line = text.substr(0, end);
    text.remove_prefix(end == text.npos ? text.size() : end + 1);
    if (line.ends_with('\r')) line.remove_suffix(1);
    return line;
}

/// Only mail has these; and these, others have as well.
constexpr std::string_view of_mail[] = {"from",       "to",       "subject",      "received",
                                        "message-id", "reply-to", "return-path",  "delivered-to",
                                        "cc",         "sender",   "mime-version", "x-mailer"};
constexpr std::string_view of_others[] = {"date", "content-type", "content-transfer-encoding", "user-agent"};

/// Some programs put a byte order mark before a message.
std::string_view without_mark(std::string_view text) {
    if (text.starts_with("\xef\xbb\xbf")) text.remove_prefix(3);
    return text;
}

bool begins_as_folder(std::string_view text) {
    text = without_mark(text);
    if (!text.starts_with("From ")) return false;
    const auto line = next_line(text);
    const bool dated = line.find(':') != line.npos &&
                       std::any_of(line.begin(), line.end(), [](char c) { return c >= '0' && c <= '9'; });
    return dated && begins_as_message(text);
}

/// Follows a message line by line.
class MessageLines {
  public:
    /// What a line without its end means; `at` is where it begins, `next` what is after it. False where
    /// it contradicts the lines before.
    bool take(std::string_view line, std::uint64_t at, std::uint64_t next) {
        if (!in_body_) {
            density_.add_unseen(next - at);
            return head(line);
        }
        if (!boundaries_.empty() && line.starts_with("--") && part_ends(line, next)) return true;
        if (packed_) return packed(line, at, next);
        density_.add_unseen(next - at);
        return true;
    }
    bool has_parts() const { return !boundaries_.empty(); }
    /// After the last part's end; nothing while it has not been seen.
    std::optional<std::uint64_t> end() const { return end_; }
    std::uint64_t bad_at() const { return *bad_at_; }
    const Density& density() const { return density_; }

  private:
    bool head(std::string_view line) {
        constexpr std::size_t most_folded = 4096;
        if (!line.empty() && (line[0] == ' ' || line[0] == '\t')) {
            if (field_.size() < most_folded) field_ += line;
            return true;
        }
        close_field();
        field_ = line.substr(0, most_folded);
        if (line.empty()) in_body_ = true;
        return true;
    }
    void close_field() {
        const auto name = field_name(field_);
        const auto value = std::string_view(field_).substr(std::min(name.size() + 1, field_.size()));
        if (same_word(name, "content-type") && lowered(value).find("multipart/") != std::string::npos) {
            if (auto boundary = boundary_of(value); !boundary.empty() && boundaries_.size() < most_nested)
                boundaries_.push_back(std::move(boundary));
        }
        if (same_word(name, "content-transfer-encoding"))
            packed_ = lowered(value).find("base64") != std::string::npos;
        field_.clear();
    }
    static std::string boundary_of(std::string_view value) {
        const auto at = lowered(value).find("boundary=");
        if (at == std::string::npos) return {};
        auto rest = value.substr(at + 9);
        const bool quoted = rest.starts_with('"');
        if (quoted) rest.remove_prefix(1);
        return std::string(rest.substr(0, rest.find_first_of(quoted ? "\"" : " \t;")));
    }

    /// A line that begins or ends a part.
    bool part_ends(std::string_view line, std::uint64_t next) {
        for (auto i = boundaries_.size(); i-- > 0;) {
            const auto& boundary = boundaries_[i];
            if (line.substr(2, boundary.size()) != boundary) continue;
            auto rest = line.substr(2 + boundary.size());
            const bool last = rest.starts_with("--");
            if (last) rest.remove_prefix(2);
            if (rest.find_first_not_of(" \t") != rest.npos) continue;
            boundaries_.resize(i + 1);
            // Between parts of the one around it nothing is that counts.
            if (last && i > 0) boundaries_.pop_back();
            if (last && i == 0) end_ = next;
            density_.add(line.size());
            in_body_ = last;
            packed_ = false;
            odd_at_.reset();
            return true;
        }
        return false;
    }

    /// Lines of letters and digits. A note that a list put after them is none, but nothing is between
    /// them.
    bool packed(std::string_view line, std::uint64_t at, std::uint64_t next) {
        const auto is_packed = [](char c) {
            return (c >= 'A' && c <= 'Z') || (c >= 'a' && c <= 'z') || (c >= '0' && c <= '9') || c == '+' ||
                   c == '/' || c == '=';
        };
        const auto end = line.find_last_not_of(" \t");
        line = line.substr(0, end == line.npos ? 0 : end + 1);
        const bool good = std::all_of(line.begin(), line.end(), is_packed);
        constexpr std::size_t full = 60;  // characters; notes are no such words
        if (good && odd_at_ && line.size() >= full) {
            bad_at_ = odd_at_;
            return false;
        }
        if (!odd_at_ && !good) odd_at_ = at;
        density_.add_decoded(next - at);
        return true;
    }

    static constexpr std::size_t most_nested = 32;
    std::vector<std::string> boundaries_;  ///< of the parts that the line is in, outermost first
    std::string field_;
    bool in_body_ = false, packed_ = false;
    std::optional<std::uint64_t> odd_at_;  ///< the first line of the part that is none of those
    std::optional<std::uint64_t> end_, bad_at_;
    Density density_;
};

class EmlCheck {
  public:
    explicit EmlCheck(Content& content) : content_(content) {}

    Check run() {
        out_.format = "eml";
        TextScan scan(Encoding::eight_bit);
        MessageLines lines;
        bool mixed_up = false;
        const auto text_in = [&](Bytes part) -> std::size_t {
            const auto before = taken_;
            taken_ += part.size();
            scan.take(part);
            // What breaks a text may have begun in the part before.
            return static_cast<std::size_t>(std::max(scan.broken_at().value_or(taken_), before) - before);
        };
        const auto read_to = for_each_line(content_, text_in,
                                           [&](std::string_view line, std::uint64_t at, std::uint64_t next) {
                                               mixed_up = !lines.take(line, at, next);
                                               return !mixed_up;
                                           });
        out_.strength = lines.density().strength();
        if (mixed_up) return out_.fails(lines.bad_at(), "the lines of an attachment are mixed up");
        if (scan.broken_at() && lines.end()) return out_.ends(with_line_ends(*lines.end()));
        if (scan.broken_at()) return out_.fails(*scan.broken_at(), "the mail turns into other data");
        if (read_to < content_.size()) return out_.fails(read_to, "bytes of it are missing");
        if (!lines.has_parts() || lines.end()) return out_.ends(content_.size());
        out_.cut = true;
        return out_.fails(content_.size(), "it ends before its last part does");
    }

  private:
    /// Line ends after the last part are its own.
    std::uint64_t with_line_ends(std::uint64_t end) const {
        std::uint8_t behind[64];
        const auto got = content_.read(end, behind);
        std::size_t more = 0;
        while (more < got && (behind[more] == '\r' || behind[more] == '\n')) ++more;
        return end + more;
    }

    Content& content_;
    Check out_;
    std::uint64_t taken_ = 0;
};

class Eml final : public FormatReader {
  public:
    bool all_our_own() const override { return true; }
    Recognised recognise(Bytes first) const override {
        return {"eml", begins_as_message(text_of(first)) ? 0.9 : 0.0};
    }
    Check check(Content& content, const CheckLimits&) const override { return EmlCheck(content).run(); }
    void text(Content& content, const TakeText& take) const override { mail_words(content, take); }
    std::string title(Content& content) const override {
        return as_title(decoded_words(header_field(text_start(content), "subject")));
    }
    InnerDates dates(Content& content) const override {
        const auto time = time_from_mail(header_field(text_start(content), "date"));
        return {time, time, "in the message's head"};
    }
};

class Mbox final : public FormatReader {
  public:
    bool all_our_own() const override { return true; }
    Recognised recognise(Bytes first) const override {
        return {"mbox", begins_as_folder(text_of(first)) ? 0.95 : 0.0};
    }
    Check check(Content& content, const CheckLimits&) const override {
        Check out;
        out.format = "mbox";
        return check_as_text(content, out);
    }
    void text(Content& content, const TakeText& take) const override { mail_words(content, take); }
    /// The first message's subject.
    std::string title(Content& content) const override {
        const auto start = text_start(content);
        std::string_view text = start;
        next_line(text);
        return as_title(decoded_words(header_field(text, "subject")));
    }
};

}  // namespace

std::string_view field_name(std::string_view line) {
    const auto colon = line.find(':');
    if (colon == line.npos || colon == 0) return {};
    const auto name = line.substr(0, colon);
    const bool good = std::all_of(name.begin(), name.end(), [](char c) { return c > ' ' && c < 0x7F; });
    return good ? name : std::string_view();
}

bool begins_with_mail_field(std::string_view text) {
    const auto name = field_name(text.substr(0, text.find('\n')));
    const auto is = [&](std::string_view word) { return same_word(word, name); };
    return text.starts_with("From ") || std::any_of(std::begin(of_mail), std::end(of_mail), is) ||
           std::any_of(std::begin(of_others), std::end(of_others), is);
}

bool begins_as_message(std::string_view text) {
    constexpr std::size_t most_lines = 200;
    text = without_mark(text);
    std::size_t mail = 0, others = 0;
    for (std::size_t i = 0; i < most_lines && !text.empty(); ++i) {
        const bool cut_off = text.find('\n') == text.npos;
        const auto line = next_line(text);
        if (line.empty()) break;
        if (i > 0 && (line[0] == ' ' || line[0] == '\t')) continue;
        const auto name = field_name(line);
        if (name.empty()) return cut_off && mail >= 2;
        const auto is = [&](std::string_view word) { return same_word(word, name); };
        mail += std::any_of(std::begin(of_mail), std::end(of_mail), is);
        others += std::any_of(std::begin(of_others), std::end(of_others), is);
    }
    return mail >= 2 || (mail == 1 && others >= 1);
}

std::string header_field(std::string_view text, std::string_view name) {
    std::string out;
    bool inside = false;
    while (!text.empty()) {
        const auto line = next_line(text);
        if (line.empty()) break;
        if (inside) {
            if (line[0] != ' ' && line[0] != '\t') break;
            out += line;
        } else if (same_word(field_name(line), name)) {
            inside = true;
            out = line.substr(name.size() + 1);
        }
    }
    return out;
}

namespace {

constexpr Format eml_rows[] = {
    {.word = "eml",
     .name = "mail",
     .kind = Kind::mail,
     .extensions = " eml mht mhtml emlx ",
     .family = "mail",
     .strength = Strength::fair,
     .delay = 4 * KiB,
     .filling = Filling::text},
};

}  // namespace

FormatRows eml_formats() {
    static const Eml reader;
    return {eml_rows, &reader};
}
namespace {

constexpr Format mbox_rows[] = {
    {.word = "mbox",
     .name = "mail folder",
     .kind = Kind::mail,
     .extensions = " mbox mbx ",
     .family = "mail",
     .strength = Strength::weak,
     .delay = 4 * KiB,
     .filling = Filling::text},
};

}  // namespace

FormatRows mbox_formats() {
    static const Mbox reader;
    return {mbox_rows, &reader};
}

}  // namespace undershelf::content
