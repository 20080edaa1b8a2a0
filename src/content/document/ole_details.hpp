#pragma once
// What a compound file says of itself, in its summary: a set of properties ([MS-OLEPS] 2.21).

#include <string>

#include "content/dates.hpp"
#include "content/details.hpp"

namespace undershelf::content {

/// PIDSI_TITLE (3.1.2).
std::string ole_title(Content& content);
/// PIDSI_CREATE_DTM and PIDSI_LASTSAVE_DTM (3.1.9, 3.1.10).
InnerDates ole_dates(Content& content);
/// Pages, by its summary.
ContentDetails ole_content_details(Content& content);

}  // namespace undershelf::content
