#pragma once
// The comments of FLAC and Ogg files (xiph.org, Ogg Vorbis I format specification, 5).

#include <string>

#include "base/bytes.hpp"

namespace undershelf::content {

/// `artist - title` of comments: a writer's name, then `KEY=value` as often as it says.
std::string comments_title(Bytes comments);

}  // namespace undershelf::content
