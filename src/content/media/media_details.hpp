#pragma once
// How long sounds and films play, and how many columns and rows films have.

#include "content/content.hpp"
#include "content/details.hpp"

namespace undershelf::content {

/// `units` of which there are `rate` in a second; nothing for 0 of these, and beyond a year.
std::optional<double> play_time(double units, double rate);

ContentDetails iso_media_details(Content& content);  ///< ISO/IEC 14496-12, 8.2.2 and 8.3.2
ContentDetails matroska_details(Content& content);   ///< RFC 9559, 5.1.2 and 5.1.4
ContentDetails wav_details(Content& content);        ///< by `fmt ` and the length of `data`
ContentDetails avi_details(Content& content);        ///< of `avih`
ContentDetails flac_details(Content& content);       ///< RFC 9639, 8.2
/// RFC 3533, 6: the last page's position, by the rate of a Vorbis, Opus or FLAC stream.
ContentDetails ogg_details(Content& content);

}  // namespace undershelf::content
