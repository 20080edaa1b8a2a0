#pragma once
// What files call themselves inside: the title of a document, the camera and the time of a photo, artist and
// title of a song. All of them UTF-8 on one line, at most 120 bytes; empty where there is none.

#include <string>
#include <string_view>

#include "content/content.hpp"

namespace undershelf::content {

/// Cut to length, without controls and needless spaces.
std::string as_title(std::string_view utf8);
/// `artist - title`, or the one that there is.
std::string song_title(std::string_view artist, std::string_view title);
std::string from_latin_1(Bytes bytes);
std::string from_utf16(Bytes bytes, bool big_endian);

/// Bytes of tags: no more than this is looked through for a title.
constexpr std::size_t most_tags = 256 << 10;
/// What there is of `size` bytes at `at`, most_tags of them at most.
ByteVector tag_bytes(Content& content, std::uint64_t at, std::uint64_t size);

}  // namespace undershelf::content
