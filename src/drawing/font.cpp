#include <ft2build.h>
#include FT_FREETYPE_H

#include <algorithm>
#include <memory>
#include <optional>

#include "drawing/decoders.hpp"

namespace undershelf::drawing {

namespace {

/// What is written: a line of letters that nearly all fonts have, or the first that this one has.
std::vector<FT_UInt> glyphs_of(FT_Face face, std::string_view text) {
    std::vector<FT_UInt> out;
    for (const char c : text) out.push_back(FT_Get_Char_Index(face, static_cast<FT_ULong>(c)));
    const auto missing = std::count(out.begin(), out.end(), 0u);
    if (missing * 3 < static_cast<std::ptrdiff_t>(out.size())) return out;
    out.clear();
    FT_UInt glyph = 0;
    for (auto c = FT_Get_First_Char(face, &glyph); glyph != 0 && out.size() < text.size();
         c = FT_Get_Next_Char(face, c, &glyph))
        out.push_back(glyph);
    return out;
}

/// Dark letters on a white picture of 8-bit pixels, each blended where it is.
class Line {
  public:
    Line(FT_Face face, int width, int height)
        : face_(face),
          width_(width),
          height_(height),
          pixels_(static_cast<std::size_t>(width * height * 4), 255) {}

    /// Glyphs one after the other by their own widths; how wide they are. Drawn only where `y` is given.
    int set(const std::vector<FT_UInt>& glyphs, int size, int x, std::optional<int> y) {
        if (FT_Set_Pixel_Sizes(face_, 0, static_cast<FT_UInt>(size)) != 0) choose_strike();
        const auto from = x;
        for (const auto glyph : glyphs) {
            if (FT_Load_Glyph(face_, glyph, y ? FT_LOAD_RENDER : FT_LOAD_DEFAULT) != 0) continue;
            if (y) blend(face_->glyph->bitmap, x + face_->glyph->bitmap_left, *y - face_->glyph->bitmap_top);
            x += static_cast<int>(face_->glyph->advance.x >> 6);
        }
        return x - from;
    }

    Picture finish(std::uint32_t pixels) const {
        RowScaler rows(static_cast<std::uint64_t>(width_), static_cast<std::uint64_t>(height_), pixels);
        for (int y = 0; y < height_; ++y) rows.row(&pixels_[static_cast<std::size_t>(y * width_ * 4)]);
        return rows.finish();
    }

  private:
    /// Fonts of bitmaps have the sizes that they have.
    void choose_strike() const {
        if (face_->num_fixed_sizes > 0) FT_Select_Size(face_, 0);
    }
    void blend(const FT_Bitmap& bitmap, int left, int top) {
        for (int row = 0; row < static_cast<int>(bitmap.rows); ++row) {
            for (int column = 0; column < static_cast<int>(bitmap.width); ++column) {
                const int x = left + column, y = top + row;
                if (x < 0 || y < 0 || x >= width_ || y >= height_) continue;
                const auto* line = bitmap.buffer + static_cast<std::ptrdiff_t>(row) * bitmap.pitch;
                int ink = 0;
                if (bitmap.pixel_mode == FT_PIXEL_MODE_GRAY) ink = line[column];
                if (bitmap.pixel_mode == FT_PIXEL_MODE_MONO)
                    ink = line[column / 8] >> (7 - column % 8) & 1 ? 255 : 0;
                if (bitmap.pixel_mode == FT_PIXEL_MODE_BGRA) ink = line[column * 4 + 3];
                constexpr int darkest = 33;
                auto* pixel = &pixels_[static_cast<std::size_t>((y * width_ + x) * 4)];
                for (int i = 0; i < 3; ++i)
                    pixel[i] = static_cast<std::uint8_t>(pixel[i] - (pixel[i] - darkest) * ink / 255);
            }
        }
    }

    FT_Face face_;
    int width_, height_;
    std::vector<std::uint8_t> pixels_;
};

}  // namespace

Picture draw_font(Content& content, std::uint32_t pixels) {
    const auto bytes = all_of(content);
    FT_Library raw_library = nullptr;
    if (FT_Init_FreeType(&raw_library) != 0) throw std::bad_alloc();
    const std::unique_ptr<FT_LibraryRec_, decltype(&FT_Done_FreeType)> library(raw_library, FT_Done_FreeType);
    FT_Face raw_face = nullptr;
    if (FT_New_Memory_Face(raw_library, bytes.data(), static_cast<FT_Long>(bytes.size()), 0, &raw_face) != 0)
        throw Undrawable{"its tables cannot be read"};
    const std::unique_ptr<FT_FaceRec_, decltype(&FT_Done_Face)> face(raw_face, FT_Done_Face);
    const int width = static_cast<int>(std::clamp(pixels, 16u, 8192u)), height = width / 2;
    Line line(face.get(), width, height);
    int y = height * 3 / 10;
    bool any = false;
    for (const std::string_view text : {"Aa Bb Cc 123", "Hamburgefonstiv", "The strings hold the stage"}) {
        const auto glyphs = glyphs_of(face.get(), text);
        constexpr int tried = 100;
        const auto wide = line.set(glyphs, tried, 0, std::nullopt);
        if (wide <= 0) break;
        const auto size = std::max(4, std::min(height * 24 / 100, tried * width * 88 / 100 / wide));
        line.set(glyphs, size, width * 6 / 100, y);
        y += height * 29 / 100;
        any = true;
    }
    if (!any) throw Undrawable{"it has no letters that can be drawn"};
    auto out = line.finish(pixels);
    out.full_width = out.full_height = 0;
    return out;
}

}  // namespace undershelf::drawing
