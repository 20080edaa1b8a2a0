#pragma once
// What came of drawing a content: asked of a process behind a wall, which gives the picture's file out as
// well.

#include <cstdint>
#include <string>

namespace undershelf {

/// What a picture is drawn as; the last two are for pages alone.
enum class PictureForm : std::uint8_t { png, jpeg, pdf, svg };

/// What it shows.
enum class Shows : std::uint8_t {
    nothing,   ///< it could not be drawn
    whole,     ///< all of the picture, or the first of several; a page, a wave form, a line of text
    part,      ///< as far as it holds, the rest hatched
    embedded,  ///< a small picture that is kept in the file for those who look through many
    text,      ///< its first lines
};

struct Drawn {
    Shows shows = Shows::nothing;
    std::uint32_t width = 0, height = 0;  ///< pixels of what was drawn
    double share = 1;                     ///< of the picture that holds, 0 to 1
    std::string why;  ///< what is missing, as the end of a sentence; empty where nothing is
};

}  // namespace undershelf
