#pragma once
// Points in time as file systems keep them: UTC, UTC with a known offset, or a local time of unknown zone.

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

namespace undershelf {

struct Timestamp {
    /// `offset_minutes` of a local time whose zone nobody knows.
    static constexpr std::int16_t local = INT16_MIN;
    static constexpr std::int64_t per_second = 10'000'000;

    /// 100 ns steps since 1970-01-01 00:00:00: of UTC, or, when local, of the wall clock.
    std::int64_t ticks = 0;
    /// Minutes east of UTC, 0 for plain UTC, or `local`.
    std::int16_t offset_minutes = 0;

    bool is_local() const { return offset_minutes == local; }
    bool operator==(const Timestamp&) const = default;
};

using MaybeTime = std::optional<Timestamp>;

/// Its ticks, 0 for an unknown time.
inline std::int64_t ticks_of(const MaybeTime& time) {
    return time ? time->ticks : 0;
}

struct CivilTime {
    int year = 1970, month = 1, day = 1, hour = 0, minute = 0, second = 0;
};

/// Since 1970, of a date that the proleptic Gregorian calendar has.
std::int64_t seconds_from_civil(const CivilTime& civil);
CivilTime civil_from_seconds(std::int64_t seconds);
/// False for dates that no calendar has, such as 30 February.
bool is_valid(const CivilTime& civil);

/// The FILETIME of Windows and NTFS: 100 ns steps since 1601-01-01 UTC. Nothing for 0 and what lies beyond
/// the calendar ([MS-DTYP] section 2.3.3).
MaybeTime time_from_filetime(std::uint64_t value);

/// ISO 8601: `2024-03-01T09:00:00`, with a fraction where there is one; `Z` for UTC, `+01:00` for an offset,
/// nothing behind a local time.
std::string iso8601(const Timestamp& time);
void append_iso8601(std::string& out, const Timestamp& time);
/// `2024-03-01 09:00`, for tables.
std::string short_date(const Timestamp& time);
/// Now, in UTC.
Timestamp now_utc();

/// The first and the last tick that `text` covers: a year, month, day, minute or second of ISO 8601 date and
/// time, or the day that is `today`, `yesterday`, `7d` or `2w` ago, as the clock on the wall has it. Nothing
/// for any other text.
struct TickSpan {
    std::int64_t first, last;
};
CivilTime local_now();
std::optional<TickSpan> parse_date(std::string_view text, const CivilTime& now = local_now());

}  // namespace undershelf
