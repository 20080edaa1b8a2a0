#include "answers/grade_words.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "answers/check_words.hpp"
#include "rating/explain.hpp"
#include "volume/words.hpp"

namespace undershelf {

std::string grade_text(const ShelfEntry& entry) {
    if (entry.rated == Rated::not_copied) return "not copied yet";
    if (entry.rated == Rated::not_yet) return "not rated yet";
    return std::string(word(entry.rating.grade));
}

std::string reason_of(const Shelf& shelf, const ShelfEntry& entry) {
    if (entry.rated == Rated::not_copied) return "Its content is not copied into the image yet.";
    if (entry.rated == Rated::not_yet) return "It is not rated yet.";
    const auto checked = check_in_words(entry);
    if (!checked.empty()) return checked + ".";
    const auto all = shelf.evidence(entry.id);
    const auto worst = std::min_element(
        all.begin(), all.end(), [](const Evidence& a, const Evidence& b) { return a.chance < b.chance; });
    if (worst == all.end() || worst->chance >= 1) return "Nothing speaks against it.";
    auto out = explain(*worst, [&](std::int64_t id) {
        const auto other = shelf.entry(id);
        return other ? other->shown_path() : fmt::format("entry {}", id);
    });
    if (!out.empty() && !out.ends_with('.')) out += '.';
    return out;
}

}  // namespace undershelf
