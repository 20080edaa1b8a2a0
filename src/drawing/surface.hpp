#pragma once
// cairo's surfaces, and files of them.

#include <cairo.h>

#include <memory>

#include "drawing/module.hpp"
#include "drawing/picture.hpp"

namespace undershelf::drawing {

using Surface = std::unique_ptr<cairo_surface_t, decltype(&cairo_surface_destroy)>;
using Pen = std::unique_ptr<cairo_t, decltype(&cairo_destroy)>;

/// One without content. Throws std::bad_alloc.
Surface new_surface(int width, int height);
Pen pen_on(const Surface& surface);
/// The same, once the surface is white.
Pen white_paper(const Surface& surface);
/// What is drawn on a surface, as a picture.
Picture picture_of(const Surface& surface);
/// A picture as a surface.
Surface surface_of(const Picture& picture);

/// Turned upright by the picture's orientation, at most `pixels` at the longer side, never larger than
/// it is; what does not hold is hatched.
Surface finished(const Picture& picture, std::uint32_t pixels);

void write_png(const Surface& surface, const TakeFile& take);
/// On white. As good as fits into `most_bytes`, and not worse than can be looked at.
void write_jpeg(const Surface& surface, std::uint64_t most_bytes, const TakeFile& take);

}  // namespace undershelf::drawing
