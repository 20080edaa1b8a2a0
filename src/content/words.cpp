#include "content/words.hpp"

#include <algorithm>

#include "base/text.hpp"

namespace undershelf {

WordSearch::WordSearch(std::string_view words) {
    const auto text = searchable(words);
    for (std::size_t at = 0; at < text.size();) {
        const auto end = std::min(text.find_first_of(" \t\n", at), text.size());
        if (end > at) words_.push_back(text.substr(at, end - at));
        at = end + 1;
    }
}

bool WordSearch::Text::take(std::string_view piece) {
    const auto text = searchable(piece);
    bool all = true;
    for (std::size_t i = 0; i < found_.size(); ++i) {
        if (!found_[i]) found_[i] = text.find(search_.words_[i]) != std::string::npos;
        all = all && found_[i];
    }
    return missing_none_ = all;
}

namespace content {

void Pieces::add(std::string_view text) {
    constexpr std::size_t most = 64 << 10;
    if (enough_) return;
    text_ += text;
    if (text_.size() < most) return;
    auto end = text_.find_last_of(" \n\t");
    // What has no spaces, or hardly any, is cut between characters.
    if (end == std::string::npos || end < most / 2) {
        end = text_.size();
        while (end > most / 2 && (text_[end - 1] & 0x80)) --end;
    }
    enough_ = take_(std::string_view(text_).substr(0, end));
    text_.erase(0, end);
}

void Pieces::flush() {
    if (!enough_ && !text_.empty()) enough_ = take_(text_);
    text_.clear();
}

}  // namespace content

}  // namespace undershelf
