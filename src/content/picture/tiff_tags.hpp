#pragma once
// Tags of TIFF 6.0, of its supplements and of DNG, as far as they matter here.

#include <cstdint>

namespace undershelf::content {

constexpr std::uint16_t tiff_magic = 42, big_tiff_magic = 43;

namespace tag {
constexpr std::uint16_t image_width = 256, image_length = 257, compression = 259, photometric = 262,
                        make = 271, model = 272, strip_offsets = 273, strip_sizes = 279, orientation = 274,
                        date_time = 306, tile_offsets = 324, tile_sizes = 325, sub_directories = 330,
                        jpeg_offset = 513, jpeg_size = 514, exif_directory = 34665, gps_directory = 34853,
                        taken = 36867, date_time_zone = 36880, taken_zone = 36881, dng_version = 50706;
}

namespace compression {
constexpr std::uint64_t none = 1, ccitt_rle = 2, fax_3 = 3, fax_4 = 4, lzw = 5, old_jpeg = 6, jpeg = 7,
                        deflate = 8, packbits = 32773, old_deflate = 32946;
}

/// PhotometricInterpretation of a sensor's own picture (DNG).
constexpr std::uint64_t photometric_sensor = 32803, photometric_linear_raw = 34892;

}  // namespace undershelf::content
