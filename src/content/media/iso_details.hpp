#pragma once
// What a movie says of itself.

#include <string>

#include "content/dates.hpp"

namespace undershelf::content {

/// What is in `moov`, `udta` as iTunes or QuickTime write it.
std::string iso_title(Content& content);
/// Of the movie's head (ISO/IEC 14496-12, 8.2.2): seconds since 1904, UTC.
InnerDates iso_dates(Content& content);

}  // namespace undershelf::content
