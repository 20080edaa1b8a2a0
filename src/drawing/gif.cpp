#include <gif_lib.h>

#include <algorithm>
#include <memory>

#include "drawing/decoders.hpp"

namespace undershelf::drawing {

namespace {

struct Reading {
    Content& content;
    std::uint64_t next = 0;
};

int read(GifFileType* gif, GifByteType* out, int length) {
    auto& r = *static_cast<Reading*>(gif->UserData);
    const auto got = r.content.read(r.next, {out, static_cast<std::size_t>(std::max(0, length))});
    r.next += got;
    return static_cast<int>(got);
}

/// The colour that is not drawn, which an extension before the picture tells (GIF89a, 23); -1 for none.
int transparent_in(const GifByteType* extension) {
    return extension && extension[0] >= 4 && (extension[1] & 1) ? extension[4] : -1;
}

}  // namespace

Picture draw_gif(Content& content, std::uint32_t pixels) {
    Reading reading{content};
    const auto close = [](GifFileType* gif) { DGifCloseFile(gif, nullptr); };
    const std::unique_ptr<GifFileType, decltype(close)> gif(DGifOpen(&reading, read, nullptr), close);
    if (!gif) throw Undrawable{"its head is damaged"};
    int transparent = -1;
    for (GifRecordType type{};;) {
        if (DGifGetRecordType(gif.get(), &type) == GIF_ERROR || type == TERMINATE_RECORD_TYPE)
            throw Undrawable{"no picture is found in it"};
        if (type == IMAGE_DESC_RECORD_TYPE) break;
        int kind = 0;
        GifByteType* extension = nullptr;
        auto more = DGifGetExtension(gif.get(), &kind, &extension);
        if (kind == GRAPHICS_EXT_FUNC_CODE) transparent = transparent_in(extension);
        while (more != GIF_ERROR && extension) more = DGifGetExtensionNext(gif.get(), &extension);
        if (more == GIF_ERROR) throw Undrawable{"what is before its picture is damaged"};
    }
    if (DGifGetImageDesc(gif.get()) == GIF_ERROR) throw Undrawable{"its picture's head is damaged"};
    const auto& place = gif->Image;
    const auto* colours = place.ColorMap ? place.ColorMap : gif->SColorMap;
    if (!colours || place.Width <= 0 || place.Height <= 0) throw Undrawable{"it has no colours"};
    const auto width = static_cast<std::size_t>(place.Width), height = static_cast<std::size_t>(place.Height);
    // 65,535 at most on each side: what is interlaced is put together here.
    constexpr std::size_t most = 160 << 20;
    if (width * height > most) throw Undrawable{"it is too large to be put together"};
    std::vector<GifByteType> all(width * height, 0);
    constexpr std::size_t starts[] = {0, 4, 2, 1}, steps[] = {8, 8, 4, 2};
    const std::size_t passes = place.Interlace ? 4 : 1;
    std::size_t done = 0;
    for (std::size_t pass = 0; pass < passes; ++pass) {
        const auto step = place.Interlace ? steps[pass] : 1;
        for (auto y = place.Interlace ? starts[pass] : 0; y < height; y += step, ++done) {
            if (DGifGetLine(gif.get(), &all[y * width], static_cast<int>(width)) == GIF_ERROR) {
                pass = passes;
                break;
            }
        }
    }
    RowScaler rows(width, height, pixels);
    std::vector<std::uint8_t> row(width * 4);
    const auto shown = place.Interlace ? height : done;
    for (std::size_t y = 0; y < shown; ++y) {
        for (std::size_t x = 0; x < width; ++x) {
            const int index = all[y * width + x];
            const auto colour = index < colours->ColorCount ? colours->Colors[index] : GifColorType{};
            auto* out = &row[x * 4];
            out[0] = colour.Red;
            out[1] = colour.Green;
            out[2] = colour.Blue;
            out[3] = index == transparent ? 0 : 255;
        }
        rows.row(row.data());
    }
    auto out = rows.finish();
    if (done < height) out.share = static_cast<double>(done) / static_cast<double>(height);
    return out;
}

}  // namespace undershelf::drawing
