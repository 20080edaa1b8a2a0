#pragma once
// Camera, time and dates of a TIFF file, or of the one in a picture's Exif data (Exif 2.3, 4.6).

#include <functional>
#include <string>

#include "content/format.hpp"

namespace undershelf::content {

/// Model and time.
std::string exif_title(Content& tiff);
/// When it was taken, and changed (Exif 2.3, 4.6.5).
InnerDates exif_dates(Content& tiff);

/// What is to be done with the TIFF file in a picture's Exif data.
using UseExif = std::function<void(Content& tiff)>;
/// Title and dates of what `reader` finds.
std::string exif_title_by(const FormatReader& reader, Content& content);
InnerDates exif_dates_by(const FormatReader& reader, Content& content);

}  // namespace undershelf::content
