#pragma once
// Dates that are in contents: when a photo was taken, a document written, an archive's newest member
// changed. For contents whose file system's dates are lost.

#include <functional>
#include <string>
#include <string_view>

#include "base/timestamp.hpp"
#include "content/content.hpp"

namespace undershelf {

struct InnerDates {
    MaybeTime created, modified;
    std::string where = {};  ///< where they are, in words; empty for none

    bool empty() const { return !created && !modified; }
};

namespace content {

/// `zone`: minutes east of UTC; local without one. Nothing for dates that no calendar has, and for those
/// before 1980, when none of these formats was there.
MaybeTime time_from_civil(const CivilTime& civil, std::optional<int> zone);
/// `2024:03:01 19:30:05`, `2024-03-01T19:30:05+01:00`, `D:20240301193005Z`: year, month and day, then what
/// there is of a time, then what there is of a zone.
MaybeTime time_from_text(std::string_view text);
/// RFC 5322, 3.3: `Fri, 1 Mar 2024 19:30:05 +0100`.
MaybeTime time_from_mail(std::string_view text);
/// MS-DOS date and time, local.
MaybeTime time_from_dos(std::uint16_t date, std::uint16_t time);
/// Seconds since 1970, UTC; nothing for 0.
MaybeTime time_from_unix(std::uint64_t seconds);

}  // namespace content

}  // namespace undershelf
