#include "unnamed/plain_text.hpp"

#include <algorithm>
#include <array>
#include <string_view>
#include <vector>

namespace undershelf {

namespace {

/// The first lines of a table have one number of fields, and its very first has as many: where it has fewer,
/// a part of it is gone.
bool first_row_is_whole(Bytes first) {
    constexpr std::size_t looked_at = 5;
    for (const std::uint8_t separator : {',', ';', '\t', '|'}) {
        std::vector<std::ptrdiff_t> fields;
        for (auto at = first.begin(); fields.size() < looked_at;) {
            const auto end = std::find(at, first.end(), '\n');
            if (end == first.end()) break;
            fields.push_back(std::count(at, end, separator));
            at = end + 1;
        }
        const bool table =
            fields.size() == looked_at && fields[1] >= 2 &&
            std::all_of(fields.begin() + 1, fields.end(), [&](std::ptrdiff_t n) { return n == fields[1]; });
        if (table) return fields[0] == fields[1];
    }
    return true;
}

}  // namespace

bool reads_as_text(Bytes first) {
    constexpr std::size_t enough = 512, least_kinds = 10;
    const auto end = std::find(first.begin(), first.end(), 0);
    // Of UTF-16 half the bytes may be zeros.
    const auto text =
        end - first.begin() < 8 ? first : first.first(static_cast<std::size_t>(end - first.begin()));
    const auto looked = text.first(std::min(text.size(), enough));
    std::array<std::size_t, 256> counts{};
    for (const auto b : looked) ++counts[b];
    const auto kinds = static_cast<std::size_t>(
        std::count_if(counts.begin(), counts.end(), [](std::size_t n) { return n > 0; }));
    // Runs of spaces and zeros are in many texts.
    counts[' '] = counts[0] = 0;
    const auto most = *std::max_element(counts.begin(), counts.end());
    return kinds >= std::min(least_kinds, looked.size() / 8) && most * 3 <= looked.size() * 2;
}

bool begins_as_text(Bytes first) {
    if (first.empty()) return false;
    // The marks of UTF-16 and UTF-8, and its first bytes.
    const auto c = first[0] == 0 && first.size() > 1 ? first[1] : first[0];
    if (c >= 0x80) return c >= 0xC2;
    constexpr std::string_view in_the_middle = " ,.;:)]}>!?%&+=|";
    return first_row_is_whole(first) && !(c >= 'a' && c <= 'z') &&
           in_the_middle.find(static_cast<char>(c)) == in_the_middle.npos;
}

}  // namespace undershelf
