#pragma once
// How many columns and rows a picture has, by its own head, and the camera in its Exif data.

#include "content/details.hpp"
#include "content/picture/exif.hpp"

namespace undershelf::content {

/// Empty where one of them is 0.
std::string pixels_in_words(std::uint64_t columns, std::uint64_t rows);

ContentDetails png_details(Content& content);   ///< PNG (W3C), 11.2.2
ContentDetails gif_details(Content& content);   ///< GIF89a, section 18: the logical screen
ContentDetails bmp_details(Content& content);   ///< of BITMAPCOREHEADER or BITMAPINFOHEADER
ContentDetails psd_details(Content& content);   ///< Adobe Photoshop file format, file header section
ContentDetails webp_details(Content& content);  ///< RFC 9649, 2.5 to 2.7, without Exif data
/// Of the frame's head (ITU-T T.81, B.2.2), without Exif data.
ContentDetails jpeg_details(Content& content);
/// Of a TIFF file, and of raw pictures that are one: its largest picture, and the camera.
ContentDetails tiff_details(Content& tiff);
/// Of an image's properties (ISO/IEC 23008-12, 6.5.3): the largest.
ContentDetails heif_details(Bytes properties);

/// `details` with the camera that Exif data tell.
ContentDetails with_camera(ContentDetails details, const FormatReader& reader, Content& content);

}  // namespace undershelf::content
