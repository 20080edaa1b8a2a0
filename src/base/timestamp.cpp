#include "base/timestamp.hpp"

#include <fmt/format.h>

#include <charconv>
#include <chrono>
#include <ctime>

namespace undershelf {

namespace {
std::chrono::year_month_day date_of(const CivilTime& c) {
    return std::chrono::year(c.year) / c.month / c.day;
}
}  // namespace

std::int64_t seconds_from_civil(const CivilTime& c) {
    const std::chrono::sys_seconds midnight = std::chrono::sys_days(date_of(c));
    return midnight.time_since_epoch().count() + c.hour * 3600 + c.minute * 60 + c.second;
}

CivilTime civil_from_seconds(std::int64_t seconds) {
    const std::chrono::sys_seconds time{std::chrono::seconds(seconds)};
    const auto midnight = std::chrono::floor<std::chrono::days>(time);
    const std::chrono::year_month_day date(midnight);
    const std::chrono::hh_mm_ss clock(time - midnight);
    return {static_cast<int>(date.year()),
            static_cast<int>(static_cast<unsigned>(date.month())),
            static_cast<int>(static_cast<unsigned>(date.day())),
            static_cast<int>(clock.hours().count()),
            static_cast<int>(clock.minutes().count()),
            static_cast<int>(clock.seconds().count())};
}

bool is_valid(const CivilTime& c) {
    return date_of(c).ok() && c.hour >= 0 && c.hour < 24 && c.minute >= 0 && c.minute < 60 && c.second >= 0 &&
           c.second < 60;
}

namespace {
struct Split {
    std::int64_t seconds;
    std::int64_t fraction;
};

/// Seconds of the shown wall clock, floored, and the rest in ticks.
Split wall_clock(const Timestamp& t) {
    std::int64_t ticks = t.ticks;
    if (!t.is_local()) ticks += t.offset_minutes * 60 * Timestamp::per_second;
    std::int64_t seconds = ticks / Timestamp::per_second, fraction = ticks % Timestamp::per_second;
    if (fraction < 0) {
        fraction += Timestamp::per_second;
        --seconds;
    }
    return {seconds, fraction};
}
}  // namespace

namespace {
/// Writes `value` with this many digits, zeros in front.
void append_digits(std::string& out, std::int64_t value, int digits) {
    const auto from = out.size();
    out.append(static_cast<std::size_t>(digits), '0');
    for (auto at = from + static_cast<std::size_t>(digits); at > from && value > 0; value /= 10)
        out[--at] = static_cast<char>('0' + value % 10);
}

void append_date_and_minute(std::string& out, const CivilTime& c, char between) {
    append_digits(out, c.year, 4);
    out += '-';
    append_digits(out, c.month, 2);
    out += '-';
    append_digits(out, c.day, 2);
    out += between;
    append_digits(out, c.hour, 2);
    out += ':';
    append_digits(out, c.minute, 2);
}
}  // namespace

// Without a formatting library: listings write these by the million.
void append_iso8601(std::string& out, const Timestamp& t) {
    const auto [seconds, fraction] = wall_clock(t);
    const auto c = civil_from_seconds(seconds);
    append_date_and_minute(out, c, 'T');
    out += ':';
    append_digits(out, c.second, 2);
    if (fraction) {
        out += '.';
        append_digits(out, fraction, 7);
        out.erase(out.find_last_not_of('0') + 1);
    }
    if (t.is_local()) return;
    if (t.offset_minutes == 0) {
        out += 'Z';
        return;
    }
    const int m = t.offset_minutes < 0 ? -t.offset_minutes : t.offset_minutes;
    out += t.offset_minutes < 0 ? '-' : '+';
    append_digits(out, m / 60, 2);
    out += ':';
    append_digits(out, m % 60, 2);
}

MaybeTime time_from_filetime(std::uint64_t value) {
    constexpr std::int64_t epoch = 116'444'736'000'000'000;  // from 1601 to 1970
    if (value == 0 || value > (1ull << 62)) return std::nullopt;
    return Timestamp{static_cast<std::int64_t>(value) - epoch, 0};
}

std::string iso8601(const Timestamp& t) {
    std::string out;
    append_iso8601(out, t);
    return out;
}

std::string short_date(const Timestamp& t) {
    std::string out;
    append_date_and_minute(out, civil_from_seconds(wall_clock(t).seconds), ' ');
    return out;
}

Timestamp now_utc() {
    using namespace std::chrono;
    return {duration_cast<duration<std::int64_t, std::ratio<1, Timestamp::per_second>>>(
                system_clock::now().time_since_epoch())
                .count(),
            0};
}

namespace {
/// Reads `digits` digits from the front of `text` and steps over them.
std::optional<int> take_number(std::string_view& text, std::size_t digits) {
    if (text.size() < digits) return std::nullopt;
    int value = 0;
    const auto [end, ec] = std::from_chars(text.data(), text.data() + digits, value);
    if (ec != std::errc{} || end != text.data() + digits || value < 0) return std::nullopt;
    text.remove_prefix(digits);
    return value;
}

bool take_mark(std::string_view& text, std::string_view any_of) {
    if (text.empty() || any_of.find(text.front()) == std::string_view::npos) return false;
    text.remove_prefix(1);
    return true;
}

/// Fills one field of a date after its separator; false when what follows is no such field.
bool take_field(std::string_view& text, std::string_view separators, int& field) {
    if (!take_mark(text, separators)) return false;
    const auto value = take_number(text, 2);
    if (value) field = *value;
    return value.has_value();
}

/// Days from now for `yesterday`, `7d`, `2w`; nothing for anything else.
std::optional<int> days_ago(std::string_view text) {
    if (text == "today") return 0;
    if (text == "yesterday") return 1;
    constexpr int most = 100'000;
    int number = 0;
    const auto [end, ec] = std::from_chars(text.data(), text.data() + text.size(), number);
    if (ec != std::errc{} || end + 1 != text.data() + text.size() || number < 0 || number > most)
        return std::nullopt;
    if (*end == 'd') return number;
    if (*end == 'w') return 7 * number;
    return std::nullopt;
}
}  // namespace

CivilTime local_now() {
    const std::time_t now = std::time(nullptr);
    std::tm local{};
    localtime_r(&now, &local);
    return {local.tm_year + 1900, local.tm_mon + 1, local.tm_mday, local.tm_hour, local.tm_min, local.tm_sec};
}

std::optional<TickSpan> parse_date(std::string_view text, const CivilTime& now) {
    if (const auto days = days_ago(text)) {
        constexpr std::int64_t day = 86400;
        const auto from = seconds_from_civil({now.year, now.month, now.day}) - *days * day;
        return TickSpan{from * Timestamp::per_second, (from + day) * Timestamp::per_second - 1};
    }
    CivilTime first;
    const auto year = take_number(text, 4);
    if (!year) return std::nullopt;
    first.year = *year;
    CivilTime next = first;
    next.year += 1;
    std::int64_t length = 0;
    if (!text.empty()) {
        if (!take_field(text, "-", first.month)) return std::nullopt;
        if (first.month < 1 || first.month > 12) return std::nullopt;
        next = first;
        next.month == 12 ? (next.year += 1, next.month = 1) : next.month += 1;
    }
    if (!text.empty()) {
        if (!take_field(text, "-", first.day)) return std::nullopt;
        length = 86400;
    }
    if (!text.empty()) {
        if (!take_field(text, "T ", first.hour) || !take_field(text, ":", first.minute)) return std::nullopt;
        length = 60;
    }
    if (!text.empty() && text != "Z") {
        if (!take_field(text, ":", first.second)) return std::nullopt;
        length = 1;
    }
    if (text == "Z") text = {};
    if (!text.empty() || !is_valid(first)) return std::nullopt;
    const auto from = seconds_from_civil(first);
    const auto to = length ? from + length : seconds_from_civil(next);
    return TickSpan{from * Timestamp::per_second, to * Timestamp::per_second - 1};
}

}  // namespace undershelf
