#pragma once
// What files call themselves inside: the title of a document, the camera and the time of a photo, artist and
// title of a song. All of them UTF-8 on one line, at most 120 bytes; empty where there is none.

#include <functional>
#include <string>
#include <string_view>

#include "content/content.hpp"
#include "content/document/compound_file.hpp"

namespace undershelf::content {

/// Cut to length, without controls and needless spaces.
std::string as_title(std::string_view utf8);
/// `artist - title`, or the one that there is.
std::string song_title(std::string_view artist, std::string_view title);
std::string from_latin_1(Bytes bytes);
std::string from_utf16(Bytes bytes, bool big_endian);

/// Model and time of a TIFF file, or of the one in a JPEG picture's APP1 segment (Exif 2.3, 4.6).
std::string exif_title(Content& tiff);
/// A `Title` text chunk (PNG, 11.3.4), else Exif (PNG, 11.3.3.7).
std::string png_title(Content& content);
/// The chunks at a PNG picture's start, until `visit` says false.
void png_chunks(Content& content, const std::function<bool(std::string_view type, Content& data)>& visit);

/// ID3v2 (id3.org, 2.2 to 2.4) at the start, else ID3v1 at the end.
std::string mp3_title(Content& content);
/// Vorbis comments (xiph.org, 5): a writer's name, then `KEY=value` as often as it says.
std::string comments_title(Bytes comments);
std::string flac_title(Content& content);
std::string ogg_title(Content& content);
/// What stands in `moov`, `udta` as iTunes or QuickTime write it.
std::string iso_title(Content& content);
std::string matroska_title(Content& content);
/// INFO lists of WAV and AVI.
std::string riff_title(Content& content);

/// The title in a markup document: of the first `<dc:title>`.
std::string dublin_core_title(std::string_view xml);
std::string zip_title(Content& content);
/// PIDSI_TITLE ([MS-OLEPS] 2.21, 3.1.2) of a compound file.
std::string ole_title(Content& content);
/// The summary of a compound file: a set of properties ([MS-OLEPS] 2.21); empty where there is none.
ByteVector ole_properties(Content& content);
/// A property of its first section, type and value; empty where it has none of this number.
Bytes ole_property(Bytes properties, std::uint32_t id);
/// Of the information dictionary (ISO 32000-1, 14.3.3).
std::string pdf_title(Content& content);
/// That dictionary, as far as it stands in plain text.
std::string pdf_information(Content& content);

}  // namespace undershelf::content
