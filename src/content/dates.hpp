#pragma once
// Dates that stand in contents: when a photo was taken, a document written, an archive's newest member
// changed. For contents whose file system's dates are lost.

#include <functional>
#include <string>
#include <string_view>

#include "base/timestamp.hpp"
#include "content/content.hpp"

namespace undershelf {

struct InnerDates {
    MaybeTime created, modified;
    std::string_view where = {};  ///< where they stand, in words; empty for none

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

/// Of a TIFF file, or the one in a picture's Exif data (Exif 2.3, 4.6.5).
InnerDates exif_dates(Content& tiff);
/// Exif (PNG, 11.3.3.7), else when the picture was last changed (`tIME`, 11.3.5.1).
InnerDates png_dates(Content& content);
InnerDates pdf_dates(Content& content);
/// Of an office document's properties, else of the newest member.
InnerDates zip_dates(Content& content);
/// PIDSI_CREATE_DTM and PIDSI_LASTSAVE_DTM ([MS-OLEPS] 3.1.9, 3.1.10).
InnerDates ole_dates(Content& content);
/// Of the movie's head (ISO/IEC 14496-12, 8.2.2): seconds since 1904, UTC.
InnerDates iso_dates(Content& content);

/// What is to be done with the TIFF file in a picture's Exif data.
using UseExif = std::function<void(Content& tiff)>;
void jpeg_exif(Content& content, const UseExif& use);
void webp_exif(Content& content, const UseExif& use);
/// Title and dates of what `find` finds.
using FindExif = void (*)(Content& content, const UseExif& use);
std::string exif_title_by(FindExif find, Content& content);
InnerDates exif_dates_by(FindExif find, Content& content);

}  // namespace content

}  // namespace undershelf
