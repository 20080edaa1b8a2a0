#include "content/content.hpp"

#include <algorithm>

namespace undershelf {

Bytes Cursor::peek(std::size_t count) {
    count = std::min(count, window);
    const bool inside = at_ >= buffer_at_ && at_ - buffer_at_ <= buffer_.size();
    if (!inside || buffer_at_ + buffer_.size() - at_ < count) {
        if (at_ >= content_.size()) return {};
        buffer_.resize(static_cast<std::size_t>(std::min<std::uint64_t>(2 * window, content_.size() - at_)));
        buffer_.resize(content_.read(at_, buffer_));
        buffer_at_ = at_;
    }
    const auto from = static_cast<std::size_t>(at_ - buffer_at_);
    return Bytes(buffer_).subspan(from, std::min(count, buffer_.size() - from));
}

bool Cursor::pass(std::uint64_t count) {
    while (count > 0) {
        const auto part = take(static_cast<std::size_t>(std::min<std::uint64_t>(count, window)));
        if (part.empty()) return false;
        count -= part.size();
    }
    return true;
}

bool content::begins_with(Bytes bytes, std::string_view magic) {
    return bytes.size() >= magic.size() &&
           std::equal(magic.begin(), magic.end(), bytes.begin(),
                      [](char a, std::uint8_t b) { return static_cast<std::uint8_t>(a) == b; });
}

}  // namespace undershelf
