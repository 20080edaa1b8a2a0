#include "fat/first_letter.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cstring>
#include <string_view>

namespace undershelf::fat {

namespace {

bool is_digit(std::uint8_t c) {
    return c >= '0' && c <= '9';
}

/// What the names of a series have in common: all but the first byte and the values of digits. Nothing
/// without a number of at least three digits.
std::optional<std::string> series_of(const std::uint8_t* name) {
    std::string out;
    int digits = 0;
    for (int i = 1; i < 11; ++i) {
        digits += is_digit(name[i]);
        out += is_digit(name[i]) ? '0' : static_cast<char>(name[i]);
    }
    return digits >= 3 ? std::optional(std::move(out)) : std::nullopt;
}

/// Names of a recycle bin are `$I` or `$R` and six letters or digits, by which each record and its file find
/// one another.
bool may_be_of_a_bin(const std::uint8_t* name) {
    return (name[1] == 'I' || name[1] == 'R') &&
           std::all_of(name + 2, name + 8, [](auto c) { return is_digit(c) || (c >= 'A' && c <= 'Z'); });
}
constexpr const char* bin_series = "$";
/// A record and its file: one such name alone may be anybody's.
constexpr std::size_t fewest_of_a_bin = 2;

std::optional<ArguedLetter> from_year(const ShortEntry& slots, const Entry& entry) {
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

SeriesLetters::SeriesLetters(const FolderBytes& folder) {
    walk_folder(folder, [this](ShortEntry&& slots) {
        const bool solved = slots.erased && slots.first_letter_agrees;
        if ((slots.entry.DIR_Attr & ATTR_VOLUME_ID) || (slots.erased && !solved)) return true;
        const auto letter = solved ? slots.first_letter : slots.entry.DIR_Name[0];
        if (const auto key = series_of(slots.entry.DIR_Name)) add(*key, letter);
        if (may_be_of_a_bin(slots.entry.DIR_Name)) add(bin_series, letter);
        return true;
    });
}

void SeriesLetters::add(const std::string& key, std::uint8_t letter) {
    auto& series = series_[key];
    series.agree &= series.names == 0 || series.letter == letter;
    series.letter = letter;
    ++series.names;
}

std::optional<ArguedLetter> SeriesLetters::letter_of(const DirEntry& entry) const {
    const auto key = series_of(entry.DIR_Name);
    auto it = key ? series_.find(*key) : series_.end();
    if (it == series_.end() && may_be_of_a_bin(entry.DIR_Name)) {
        it = series_.find(bin_series);
        if (it != series_.end() && (it->second.letter != '$' || it->second.names < fewest_of_a_bin))
            return std::nullopt;
    }
    if (it == series_.end() || !it->second.agree) return std::nullopt;
    const auto names = it->second.names;
    return ArguedLetter{it->second.letter,
                        fmt::format("{} of the same series in the folder begin so",
                                    names == 1 ? "one name" : fmt::format("{} names", names))};
}

std::optional<ArguedLetter> argue_first_letter(const ShortEntry& slots, const SeriesLetters* siblings,
                                               const Entry& entry) {
    if (siblings) {
        if (auto argued = siblings->letter_of(slots.entry)) return argued;
    }
    return from_year(slots, entry);
}

}  // namespace undershelf::fat
