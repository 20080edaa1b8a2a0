#pragma once
// What a PDF document says of itself, in its information dictionary (ISO 32000-1, 14.3.3).

#include <string>

#include "content/dates.hpp"
#include "content/details.hpp"

namespace undershelf::content {

std::string pdf_title(Content& content);
InnerDates pdf_dates(Content& content);
/// Its pages (7.7.3.2): the largest number that a node of the page tree says, where it is plain text, else
/// how many pages are. In the first and last 16 MiB.
ContentDetails pdf_details(Content& content);

}  // namespace undershelf::content
