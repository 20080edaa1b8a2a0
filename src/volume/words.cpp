#include "volume/words.hpp"

#include <algorithm>
#include <array>

namespace undershelf {

namespace {
using namespace std::string_view_literals;
constexpr std::array origins{"live"sv, "deleted"sv, "former"sv, "unnamed"sv};
constexpr std::array grades{""sv, "gone"sv, "partial"sv, "doubtful"sv, "likely"sv, "verified"sv};
constexpr std::array layouts{"none"sv, "assumed"sv, "known"sv};
constexpr std::array certainties{"full"sv, "first letter unknown"sv, "fragment"sv, "made up"sv};
constexpr std::array states{"present"sv, "former"sv};

template <class Words, class Value>
std::string_view at(const Words& words, Value value) {
    const auto i = static_cast<std::size_t>(value);
    return i < words.size() ? words[i] : "unknown"sv;
}
template <class Value, class Words>
std::optional<Value> from(const Words& words, std::string_view text) {
    const auto it = std::find(words.begin(), words.end(), text);
    if (text.empty() || it == words.end()) return std::nullopt;
    return static_cast<Value>(it - words.begin());
}
}  // namespace

std::string_view word(Origin origin) {
    return at(origins, origin);
}
std::string_view word(Grade grade) {
    return at(grades, grade);
}
std::string_view word(Layout layout) {
    return at(layouts, layout);
}
std::string_view word(NameCertainty certainty) {
    return at(certainties, certainty);
}
std::string_view word(VolumeState state) {
    return at(states, state);
}

std::vector<std::string> attribute_words(std::uint32_t attributes) {
    std::vector<std::string> out;
    for (const auto& [bit, name] : {std::pair{attribute::read_only, "read-only"},
                                    {attribute::hidden, "hidden"},
                                    {attribute::system, "system"},
                                    {attribute::archive, "archive"}}) {
        if (attributes & bit) out.emplace_back(name);
    }
    return out;
}

bool by_own_head(const Volume& v) {
    return v.found_by == "boot sector" || v.found_by == "volume header";
}

std::string how_found(const Volume& v) {
    if (v.found_by == "told") return "as told";
    return (v.found_by.starts_with("folders") ? "found by " : "found by the ") + v.found_by;
}

std::optional<Origin> origin_from_word(std::string_view text) {
    return from<Origin>(origins, text);
}
std::optional<Grade> grade_from_word(std::string_view text) {
    return from<Grade>(grades, text);
}

}  // namespace undershelf
