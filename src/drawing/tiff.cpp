#include <tiffio.h>

#include <algorithm>
#include <memory>

#include "drawing/decoders.hpp"

namespace undershelf::drawing {

namespace {

struct Reading {
    Content& content;
    std::uint64_t next = 0;
};

Reading& of(thandle_t handle) {
    return *static_cast<Reading*>(handle);
}
tsize_t read(thandle_t handle, void* out, tsize_t length) {
    auto& r = of(handle);
    const auto got = r.content.read(
        r.next, {static_cast<std::uint8_t*>(out), static_cast<std::size_t>(std::max<tsize_t>(0, length))});
    r.next += got;
    return static_cast<tsize_t>(got);
}
toff_t seek(thandle_t handle, toff_t offset, int whence) {
    auto& r = of(handle);
    r.next = whence == SEEK_SET ? offset : whence == SEEK_CUR ? r.next + offset : r.content.size() + offset;
    return r.next;
}

constexpr std::uint64_t most_strip = 96 << 20;  ///< bytes of a strip, or of a row of tiles, as pixels

/// A row of pixels as libtiff gives it: packed, and the lowest byte is red. What is premultiplied stays so.
void give_rows(RowScaler& rows, const std::uint32_t* raster, std::uint32_t width, std::uint32_t count) {
    std::vector<std::uint8_t> row(std::size_t{width} * 4);
    // The first row of a strip is the last one of the raster.
    for (std::uint32_t y = count; y-- > 0;) {
        for (std::uint32_t x = 0; x < width; ++x) {
            const auto pixel = raster[std::size_t{y} * width + x];
            const std::uint32_t alpha = TIFFGetA(pixel);
            const auto channel = [&](std::uint32_t value) {
                return static_cast<std::uint8_t>(alpha == 0 ? 0 : std::min(255u, value * 255 / alpha));
            };
            auto* out = &row[std::size_t{x} * 4];
            out[0] = channel(TIFFGetR(pixel));
            out[1] = channel(TIFFGetG(pixel));
            out[2] = channel(TIFFGetB(pixel));
            out[3] = static_cast<std::uint8_t>(alpha);
        }
        rows.row(row.data());
    }
}

/// False where one does not hold.
bool read_strips(TIFF* tiff, RowScaler& rows, std::uint32_t width, std::uint32_t height) {
    std::uint32_t each = height;
    TIFFGetFieldDefaulted(tiff, TIFFTAG_ROWSPERSTRIP, &each);
    each = std::min(std::max(each, 1u), height);
    if (std::uint64_t{each} * width * 4 > most_strip) throw Undrawable{"it is in one strip, and too large"};
    std::vector<std::uint32_t> raster(std::size_t{each} * width);
    for (std::uint32_t y = 0; y < height; y += each) {
        if (!TIFFReadRGBAStripExt(tiff, y, raster.data(), 1)) return false;
        give_rows(rows, raster.data(), width, std::min(each, height - y));
    }
    return true;
}

bool read_tiles(TIFF* tiff, RowScaler& rows, std::uint32_t width, std::uint32_t height) {
    std::uint32_t tile_width = 0, tile_height = 0;
    TIFFGetField(tiff, TIFFTAG_TILEWIDTH, &tile_width);
    TIFFGetField(tiff, TIFFTAG_TILELENGTH, &tile_height);
    const auto tile = std::uint64_t{tile_width} * tile_height, band = std::uint64_t{width} * tile_height;
    if (tile == 0 || (tile + band) * 4 > most_strip) throw Undrawable{"its tiles are too large"};
    std::vector<std::uint32_t> one(static_cast<std::size_t>(tile)), all(static_cast<std::size_t>(band));
    for (std::uint32_t y = 0; y < height; y += tile_height) {
        const auto count = std::min(tile_height, height - y);
        for (std::uint32_t x = 0; x < width; x += tile_width) {
            if (!TIFFReadRGBATileExt(tiff, x, y, one.data(), 1)) return false;
            // Its first row is the last one here, too; what is outside the picture is after its rows.
            for (std::uint32_t row = 0; row < count; ++row)
                std::copy_n(&one[std::size_t{tile_height - 1 - row} * tile_width],
                            std::min(tile_width, width - x), &all[std::size_t{count - 1 - row} * width + x]);
        }
        give_rows(rows, all.data(), width, count);
    }
    return true;
}

}  // namespace

Picture draw_tiff(Content& content, std::uint32_t pixels) {
    TIFFSetErrorHandler(nullptr);
    TIFFSetWarningHandler(nullptr);
    Reading reading{content};
    const std::unique_ptr<TIFF, decltype(&TIFFClose)> tiff(
        TIFFClientOpen(
            "content", "rm", &reading, read, [](thandle_t, void*, tsize_t) { return tsize_t{0}; }, seek,
            [](thandle_t) { return 0; }, [](thandle_t handle) { return toff_t{of(handle).content.size()}; },
            [](thandle_t, void**, toff_t*) { return 0; }, [](thandle_t, void*, toff_t) {}),
        TIFFClose);
    if (!tiff) throw Undrawable{"its head, or its directory, is damaged"};
    std::uint32_t width = 0, height = 0;
    TIFFGetField(tiff.get(), TIFFTAG_IMAGEWIDTH, &width);
    TIFFGetField(tiff.get(), TIFFTAG_IMAGELENGTH, &height);
    char why[1024] = {};
    if (!TIFFRGBAImageOK(tiff.get(), why))
        throw Undrawable{"its pixels are stored in a way that is not drawn"};
    RowScaler rows(width, height, pixels);
    TIFFIsTiled(tiff.get()) ? read_tiles(tiff.get(), rows, width, height)
                            : read_strips(tiff.get(), rows, width, height);
    if (rows.rows() == 0) throw Undrawable{"its first rows are damaged"};
    return rows.finish();
}

}  // namespace undershelf::drawing
