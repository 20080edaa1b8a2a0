#pragma once
// Pictures as decoders make them: small enough for what is wanted, whatever the content's own size.

#include <memory>
#include <string>
#include <vector>

#include "content/drawn.hpp"

namespace undershelf::drawing {

/// Nothing can be drawn of a content; `why` is the end of a sentence.
struct Undrawable {
    std::string why;
};

struct Picture {
    int width = 0, height = 0;        ///< of `argb`
    std::vector<std::uint32_t> argb;  ///< rows from the top; premultiplied, as cairo's ARGB32 has it
    std::uint32_t full_width = 0, full_height = 0;  ///< the content's own
    double share = 1;                               ///< of the rows from the top that hold
    int orientation = 0;  ///< how it is to be turned (Exif 2.3, 1 to 8); 0 where it does not say
    Shows shows = Shows::whole;
    std::string why;
    /// Is its width its height, once it is turned?
    bool on_side() const { return orientation >= 5 && orientation <= 8; }
};

constexpr std::uint32_t opaque(std::uint32_t red, std::uint32_t green, std::uint32_t blue) {
    return 0xFF000000u | red << 16 | green << 8 | blue;
}

/// Takes a picture's rows from the top, and makes means of those pixels that are one in the smaller picture,
/// which has `pixels` at the longer side; fewer where the content has no more. Throws Undrawable for a
/// picture without pixels.
class RowScaler {
  public:
    RowScaler(std::uint64_t width, std::uint64_t height, std::uint32_t pixels);

    /// The next row: `width` times red, green, blue and alpha, not premultiplied.
    void row(const std::uint8_t* rgba);
    std::uint64_t rows() const { return rows_; }
    /// What came so far; what did not is transparent, and `share` says so.
    Picture finish();

  private:
    void flush();
    /// Where the pixel, or row, after this one begins in the content.
    std::uint64_t row_end(std::uint64_t y) const {
        return (y + 1) * height_ / static_cast<std::uint64_t>(out_.height);
    }

    std::uint64_t height_;
    std::uint64_t rows_ = 0, in_band_ = 0;
    std::vector<std::uint32_t> ends_;  ///< of each pixel of a smaller row, in the content's
    std::vector<std::uint64_t> sums_;
    Picture out_;
};

}  // namespace undershelf::drawing
