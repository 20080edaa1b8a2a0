#include "shelf/reach.hpp"

#include <algorithm>
#include <array>

namespace undershelf {

namespace {
constexpr std::array<std::string_view, 3> words{"volumes", "traces", "content"};
}

std::string_view word(Reach reach) {
    return words[static_cast<std::size_t>(reach)];
}

std::optional<Reach> reach_from_word(std::string_view text) {
    const auto it = std::find(words.begin(), words.end(), text);
    return it == words.end() ? std::nullopt : std::optional(static_cast<Reach>(it - words.begin()));
}

}  // namespace undershelf
