#include "preview/words_of.hpp"

#include <algorithm>

namespace undershelf {

namespace {

constexpr std::size_t longest_line = 64 << 10;  ///< bytes; what is longer is broken

/// Cuts text that comes in pieces into lines.
class Lines {
  public:
    explicit Lines(const std::function<bool(const std::string&)>& take) : take_(take) {}

    /// True once that is enough.
    bool add(std::string_view piece) {
        for (const char c : piece) {
            if (enough_) break;
            if (c == '\n' || (line_.size() >= longest_line && (c & 0xC0) != 0x80)) end_line();
            if (c != '\n' && c != '\r') line_ += c;
        }
        return enough_;
    }
    /// True where anything was given on.
    bool finish() {
        if (!line_.empty() && !enough_) end_line();
        return any_;
    }

  private:
    void end_line() {
        const auto end = line_.find_last_not_of(" \t");
        line_.resize(end == std::string::npos ? 0 : end + 1);
        // Markup leaves blank lines wherever it had structure.
        if (!line_.empty() || (any_ && !blank_)) enough_ = take_(line_);
        blank_ = line_.empty();
        any_ = any_ || !line_.empty();
        line_.clear();
    }

    const std::function<bool(const std::string&)>& take_;
    std::string line_;
    bool any_ = false, blank_ = false, enough_ = false;
};

}  // namespace

Reads read_lines(ContentReading& reading, Content& content, const Format* format,
                 const std::function<bool(const std::string&)>& take) {
    const bool made_of_parts = format && (format->kind == Kind::archive || format->kind == Kind::database ||
                                          format->kind == Kind::program);
    if (made_of_parts) {
        Lines parts(take);
        reading.outline(content, [&](std::string_view piece) { return parts.add(piece); });
        if (parts.finish()) return Reads::parts;
    }
    Lines text(take);
    reading.text(content, [&](std::string_view piece) { return text.add(piece); });
    return text.finish() ? Reads::text : Reads::nothing;
}

}  // namespace undershelf
