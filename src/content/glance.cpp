#include "content/glance.hpp"

#include <algorithm>
#include <array>
#include <bitset>
#include <string_view>
#include <vector>

#include "content/characters.hpp"
#include "content/list.hpp"

namespace undershelf {

namespace {

/// What all formats say of how they begin.
struct Beginnings {
    std::bitset<65536> pairs;         ///< the first two bytes
    std::vector<Start> later_starts;  ///< those that do not begin with the content
    std::vector<bool (*)(Bytes)> glimpses;
};

const Beginnings& beginnings() {
    static const auto built = [] {
        Beginnings out;
        const auto add_pairs = [&](std::string_view pairs) {
            for (std::size_t i = 0; i + 1 < pairs.size(); i += 2)
                out.pairs.set(static_cast<std::uint8_t>(pairs[i]) << 8u |
                              static_cast<std::uint8_t>(pairs[i + 1]));
        };
        for (const auto rows_of : content::all_formats) {
            const auto rows = rows_of();
            if (rows.glimpse) out.glimpses.push_back(rows.glimpse);
            for (const auto& f : rows.formats) {
                add_pairs(f.marks);
                for (const auto& s : f.starts)
                    s.at == 0 ? add_pairs(s.magic.substr(0, 2)) : out.later_starts.push_back(s);
            }
        }
        return out;
    }();
    return built;
}

bool may_be_marked(Bytes first) {
    const auto& known = beginnings();
    return known.pairs.test(static_cast<std::size_t>(first[0] << 8 | first[1])) ||
           std::any_of(known.glimpses.begin(), known.glimpses.end(),
                       [&](auto glimpse) { return glimpse(first); }) ||
           std::any_of(known.later_starts.begin(), known.later_starts.end(), [&](const Start& s) {
               return first.size() > s.at && content::begins_with(first.subspan(s.at), s.magic);
           });
}

constexpr std::size_t glanced = 64;

/// Of every second byte few are different: they tell the script.
bool may_be_utf16(Bytes first, std::size_t from) {
    std::array<std::uint8_t, 4> scripts{};
    std::size_t count = 0;
    for (std::size_t i = from; i < std::min(first.size(), glanced); i += 2) {
        const auto end = scripts.begin() + static_cast<std::ptrdiff_t>(count);
        if (std::find(scripts.begin(), end, first[i]) != end) continue;
        if (count == scripts.size()) return false;
        scripts[count++] = first[i];
    }
    return true;
}

}  // namespace

bool may_be_text(Bytes bytes) {
    return std::none_of(bytes.begin(), bytes.end(), [](std::uint8_t b) { return is_stray_control(b); });
}

Glance glance(Bytes first) {
    if (first.size() < 2) return Glance::nothing;
    // Most of what is empty is zeros, and nothing begins with eight.
    constexpr std::size_t no_start = 8;
    if (first[0] == 0 && first.size() >= no_start && all_zero(first.first(no_start))) return Glance::nothing;
    if (may_be_marked(first)) return Glance::mark;
    // A text may be shorter than what is glanced at, with zeros after its end.
    constexpr std::size_t shortest = 8;
    const auto most = std::min(first.size(), glanced);
    std::size_t characters = 0;
    while (characters < most && !is_stray_control(first[characters])) ++characters;
    const auto behind = first.subspan(characters, std::min(first.size() - characters, shortest));
    if (characters == most || (characters >= shortest && all_zero(behind))) return Glance::text;
    return may_be_utf16(first, 0) || may_be_utf16(first, 1) ? Glance::text : Glance::nothing;
}

}  // namespace undershelf
