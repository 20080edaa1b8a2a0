#pragma once
// What draws, as the decoder has it: a module of its own, since it needs many libraries that reading contents
// does not. It is loaded before the wall is closed.

#include "content/content.hpp"
#include "content/drawn.hpp"
#include "content/format.hpp"

namespace undershelf::drawing {

/// The file that is wanted.
struct Wanted {
    std::uint32_t pixels = 512;  ///< the longer side of what is drawn
    PictureForm form{};
    std::uint64_t most_bytes = ~0ull;  ///< of a JPEG file: as good as fits
};

/// Gives the file out piece by piece.
using TakeFile = TakeText;

struct Module {
    /// Before the wall is closed: reads what fonts there are.
    void (*prepare)();
    /// Is there a way to draw contents of this format?
    bool (*knows)(std::string_view format);
    /// Draws a content of a format that it knows, turned as `orientation` says (Exif 2.3: 1 to 8). Gives
    /// nothing out where it shows nothing.
    Drawn (*content)(Content& content, std::string_view format, int orientation, const Wanted& wanted,
                     const TakeFile& take);
    /// The first lines of a text (UTF-8), as on a page.
    Drawn (*text)(std::string_view text, const Wanted& wanted, const TakeFile& take);
    /// A page, as `drawing/page.hpp` describes it. False where that makes no sense.
    bool (*page)(Content& description, const Wanted& wanted, const TakeFile& take);
};

/// The name of the function that a loaded module gives itself by: `const Module* undershelf_drawing()`.
constexpr const char* entry_point = "undershelf_drawing";
/// The module's file, which is beside the decoder.
constexpr const char* module_name = "undershelf-drawing.so";

}  // namespace undershelf::drawing
