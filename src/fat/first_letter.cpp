#include "fat/first_letter.hpp"

#include <fmt/format.h>

#include <cstring>
#include <string_view>

namespace undershelf::fat {

namespace {

bool is_digit(std::uint8_t c) {
    return c >= '0' && c <= '9';
}

/// The same but for the first byte and the values of digits, and with a number of at least three digits.
bool same_series(const std::uint8_t* a, const std::uint8_t* b) {
    int digits = 0;
    for (int i = 1; i < 11; ++i) {
        if (is_digit(a[i]) && is_digit(b[i])) {
            ++digits;
        } else if (a[i] != b[i]) {
            return false;
        }
    }
    return digits >= 3;
}

std::optional<ArguedLetter> from_siblings(const Slots& slots, const Listing& siblings) {
    std::uint8_t letter = 0;
    int count = 0;
    for (const auto& other : siblings.entries) {
        if (other.index == slots.index || (other.entry.DIR_Attr & ATTR_VOLUME_ID)) continue;
        const bool solved = other.erased && other.first_letter_agrees;
        if (other.erased && !solved) continue;
        if (!same_series(other.entry.DIR_Name, slots.entry.DIR_Name)) continue;
        const auto first = solved ? other.first_letter : other.entry.DIR_Name[0];
        if (letter && first != letter) return std::nullopt;
        letter = first;
        ++count;
    }
    if (!letter) return std::nullopt;
    return ArguedLetter{letter, fmt::format("{} of the same series in the folder begin so",
                                            count == 1 ? "one name" : fmt::format("{} names", count))};
}

std::optional<ArguedLetter> from_year(const Slots& slots, const Entry& entry) {
    const auto* n = slots.entry.DIR_Name;
    if (!is_digit(n[1]) || !is_digit(n[2]) || !is_digit(n[3]) || std::memcmp(n + 4, "       ", 7) != 0 ||
        !entry.created)
        return std::nullopt;
    const auto year = iso8601(*entry.created).substr(0, 4);
    if (std::string_view(year).substr(1) != std::string_view(reinterpret_cast<const char*>(n) + 1, 3))
        return std::nullopt;
    return ArguedLetter{static_cast<std::uint8_t>(year[0]), "the name then reads as the year it was made in"};
}

}  // namespace

std::optional<ArguedLetter> argue_first_letter(const Slots& slots, const Listing* siblings,
                                               const Entry& entry) {
    if (siblings) {
        if (auto argued = from_siblings(slots, *siblings)) return argued;
    }
    return from_year(slots, entry);
}

}  // namespace undershelf::fat
