#pragma once
// Small pictures that pictures keep within themselves, for those who look through many, and how all of them
// are to be turned.

#include <functional>

#include "content/content.hpp"
#include "content/format.hpp"

namespace undershelf::content {

/// How a picture is to be turned: 1 to 8 (Exif 2.3, Orientation); 1 where nothing tells.
int orientation_of(const FormatReader& reader, Content& content);

/// Gives JPEG pictures that are in `content`, none of them twice, those that its own directories tell of
/// first. Raw pictures whose directories are not known are looked through for starts. `take` says when it has
/// enough.
void embedded_jpegs(const FormatReader& reader, bool raw, Content& content,
                    const std::function<bool(Content& jpeg)>& take);

}  // namespace undershelf::content
