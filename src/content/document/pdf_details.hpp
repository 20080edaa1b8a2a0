#pragma once
// What a PDF document says of itself, in its information dictionary (ISO 32000-1, 14.3.3).

#include <string>

#include "content/dates.hpp"

namespace undershelf::content {

std::string pdf_title(Content& content);
InnerDates pdf_dates(Content& content);

}  // namespace undershelf::content
