#include "content/dates.hpp"

#include <algorithm>
#include <array>
#include <charconv>

#include "content/ascii.hpp"

namespace undershelf::content {

namespace {

bool is_digit(char c) {
    return c >= '0' && c <= '9';
}

/// Takes `count` digits off. One character before them that is not a digit is passed over.
std::optional<int> take_number(std::string_view& text, std::size_t count) {
    if (!text.empty() && !is_digit(text[0]) && text[0] != '+' && text[0] != '-' && text[0] != 'Z')
        text.remove_prefix(1);
    else if (text.size() > count && text[0] == '-' && count == 2)
        text.remove_prefix(1);
    if (text.size() < count ||
        !std::all_of(text.begin(), text.begin() + static_cast<std::ptrdiff_t>(count), is_digit))
        return std::nullopt;
    int out = 0;
    std::from_chars(text.data(), text.data() + count, out);
    text.remove_prefix(count);
    return out;
}

/// `+01:00`, `-0530`, `+01'00'`: minutes east of UTC.
std::optional<int> zone_of(std::string_view text) {
    if (text.empty() || (text[0] != '+' && text[0] != '-')) return std::nullopt;
    const int sign = text[0] == '-' ? -1 : 1;
    text.remove_prefix(1);
    const auto hours = take_number(text, 2);
    const auto minutes = take_number(text, 2);
    if (!hours || *hours > 14) return std::nullopt;
    return sign * (*hours * 60 + (minutes && *minutes < 60 ? *minutes : 0));
}

}  // namespace

MaybeTime time_from_civil(const CivilTime& civil, std::optional<int> zone) {
    constexpr int first_year = 1980, last_year = 2107;
    if (!is_valid(civil) || civil.year < first_year || civil.year > last_year) return std::nullopt;
    Timestamp out;
    out.ticks = seconds_from_civil(civil) * Timestamp::per_second;
    out.offset_minutes = Timestamp::local;
    if (zone) {
        out.ticks -= *zone * 60 * Timestamp::per_second;
        out.offset_minutes = static_cast<std::int16_t>(*zone);
    }
    return out;
}

MaybeTime time_from_text(std::string_view text) {
    if (text.starts_with("D:")) text.remove_prefix(2);
    CivilTime civil;
    const auto year = take_number(text, 4);
    const auto month = take_number(text, 2), day = take_number(text, 2);
    if (!year || !month || !day) return std::nullopt;
    civil.year = *year, civil.month = *month, civil.day = *day;
    int* const parts[] = {&civil.hour, &civil.minute, &civil.second};
    for (auto* part : parts) {
        if (text.empty() || text[0] == 'Z' || text[0] == '+' || text[0] == '-') break;
        const auto n = take_number(text, 2);
        if (!n) break;
        *part = *n;
    }
    // A fraction of a second.
    if (text.starts_with('.')) {
        text.remove_prefix(1);
        while (!text.empty() && is_digit(text[0])) text.remove_prefix(1);
    }
    return time_from_civil(civil, text.starts_with('Z') ? std::optional(0) : zone_of(text));
}

MaybeTime time_from_mail(std::string_view text) {
    constexpr std::array<std::string_view, 12> months{"jan", "feb", "mar", "apr", "may", "jun",
                                                      "jul", "aug", "sep", "oct", "nov", "dec"};
    const auto next_word = [&] {
        text.remove_prefix(std::min(text.find_first_not_of(" \t\r\n,"), text.size()));
        const auto out = text.substr(0, text.find_first_of(" \t\r\n,"));
        text.remove_prefix(out.size());
        return out;
    };
    const auto number = [](std::string_view word) {
        int out = -1;
        const auto [end, error] = std::from_chars(word.data(), word.data() + word.size(), out);
        return error == std::errc() ? out : -1;
    };
    auto word = next_word();
    if (word.empty()) return std::nullopt;
    if (!is_digit(word[0])) word = next_word();
    CivilTime civil;
    civil.day = number(word);
    const auto month = next_word();
    const auto it =
        std::find_if(months.begin(), months.end(), [&](std::string_view m) { return same_word(month, m); });
    if (it == months.end()) return std::nullopt;
    civil.month = static_cast<int>(it - months.begin()) + 1;
    civil.year = number(next_word());
    const auto time = next_word();
    if (time.size() >= 5) {
        civil.hour = number(time.substr(0, 2));
        civil.minute = number(time.substr(3, 2));
        civil.second = time.size() >= 8 ? number(time.substr(6, 2)) : 0;
    }
    const auto zone = next_word();
    return time_from_civil(civil,
                           zone == "GMT" || zone == "UT" || zone == "Z" ? std::optional(0) : zone_of(zone));
}

MaybeTime time_from_dos(std::uint16_t date, std::uint16_t time) {
    const CivilTime civil{1980 + (date >> 9), date >> 5 & 15, date & 31,
                          time >> 11,         time >> 5 & 63, (time & 31) * 2};
    // The first day there is stands for none.
    return date == 0x21 ? std::nullopt : time_from_civil(civil, std::nullopt);
}

MaybeTime time_from_unix(std::uint64_t seconds) {
    constexpr std::uint64_t last = 4'354'819'200;  // 2108
    if (seconds == 0 || seconds >= last) return std::nullopt;
    return Timestamp{static_cast<std::int64_t>(seconds) * Timestamp::per_second, 0};
}

}  // namespace undershelf::content
