#pragma once
// The ways to draw contents, one a format or a few that share a library. Each gives a picture whose longer
// side has `pixels` or more, if the content is large enough, and throws Undrawable where nothing can be
// drawn.

#include "content/content.hpp"
#include "drawing/picture.hpp"

namespace undershelf::drawing {

Picture draw_jpeg(Content& content, std::uint32_t pixels);       ///< libjpeg-turbo
Picture draw_png(Content& content, std::uint32_t pixels);        ///< libpng
Picture draw_gif(Content& content, std::uint32_t pixels);        ///< giflib: its first picture
Picture draw_tiff(Content& content, std::uint32_t pixels);       ///< libtiff: its first picture
Picture draw_webp(Content& content, std::uint32_t pixels);       ///< libwebp
Picture draw_heif(Content& content, std::uint32_t pixels);       ///< libheif: its main picture
Picture draw_svg(Content& content, std::uint32_t pixels);        ///< librsvg
Picture draw_bmp(Content& content, std::uint32_t pixels);        ///< our own
Picture draw_ico(Content& content, std::uint32_t pixels);        ///< our own: the largest in it
Picture draw_psd(Content& content, std::uint32_t pixels);        ///< our own: the merged picture
Picture draw_film(Content& content, std::uint32_t pixels);       ///< libavcodec: the first that decodes
Picture draw_sound(Content& content, std::uint32_t pixels);      ///< libavcodec: its wave form
Picture draw_pdf(Content& content, std::uint32_t pixels);        ///< poppler: its first page
Picture draw_font(Content& content, std::uint32_t pixels);       ///< FreeType: a line in it
Picture draw_text(std::string_view text, std::uint32_t pixels);  ///< pango: its first lines

/// All of a content's bytes, up to the first that is missing. Throws Undrawable for more than `most`.
ByteVector all_of(Content& content, std::uint64_t most = 128 << 20);

}  // namespace undershelf::drawing
