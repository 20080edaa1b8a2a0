#include "drawing/picture.hpp"

#include <algorithm>

namespace undershelf::drawing {

RowScaler::RowScaler(std::uint64_t width, std::uint64_t height, std::uint32_t pixels) : height_(height) {
    if (width == 0 || height == 0 || width > 0x7FFFFFFF || height > 0x7FFFFFFF)
        throw Undrawable{"it has no pixels"};
    const auto longer = std::max(width, height),
               wanted = std::min<std::uint64_t>(longer, std::max(pixels, 1u));
    const auto side = [&](std::uint64_t of) {
        return static_cast<int>(std::max<std::uint64_t>(1, (of * wanted + longer / 2) / longer));
    };
    out_.width = side(width);
    out_.height = side(height);
    out_.full_width = static_cast<std::uint32_t>(width);
    out_.full_height = static_cast<std::uint32_t>(height);
    out_.argb.reserve(static_cast<std::size_t>(out_.width) * static_cast<std::size_t>(out_.height));
    for (std::uint64_t x = 1; x <= static_cast<std::uint64_t>(out_.width); ++x)
        ends_.push_back(static_cast<std::uint32_t>(x * width / static_cast<std::uint64_t>(out_.width)));
    sums_.assign(ends_.size() * 4, 0);
}

void RowScaler::row(const std::uint8_t* rgba) {
    if (rows_ >= height_) return;
    auto* sums = sums_.data();
    std::uint32_t x = 0;
    for (const auto end : ends_) {
        std::uint64_t red = 0, green = 0, blue = 0, alphas = 0;
        for (; x < end; ++x, rgba += 4) {
            const std::uint32_t alpha = rgba[3];
            red += rgba[0] * alpha;
            green += rgba[1] * alpha;
            blue += rgba[2] * alpha;
            alphas += alpha;
        }
        sums[0] += red;
        sums[1] += green;
        sums[2] += blue;
        sums[3] += alphas;
        sums += 4;
    }
    ++rows_;
    ++in_band_;
    const auto done = out_.argb.size() / ends_.size();  // rows of the smaller picture
    if (rows_ == row_end(done)) flush();
}

void RowScaler::flush() {
    std::uint64_t from = 0;
    const auto* sums = sums_.data();
    for (const auto end : ends_) {
        const auto count = (end - from) * in_band_, whole = count * 255;
        const auto mean = [&](std::uint64_t sum) {
            return static_cast<std::uint32_t>((sum + whole / 2) / whole);
        };
        const auto alpha = static_cast<std::uint32_t>((sums[3] + count / 2) / count);
        out_.argb.push_back(alpha << 24 | std::min(alpha, mean(sums[0])) << 16 |
                            std::min(alpha, mean(sums[1])) << 8 | std::min(alpha, mean(sums[2])));
        from = end;
        sums += 4;
    }
    std::fill(sums_.begin(), sums_.end(), 0);
    in_band_ = 0;
}

Picture RowScaler::finish() {
    if (in_band_ > 0) flush();
    out_.share = static_cast<double>(rows_) / static_cast<double>(height_);
    out_.argb.resize(static_cast<std::size_t>(out_.width) * static_cast<std::size_t>(out_.height), 0);
    return std::move(out_);
}

}  // namespace undershelf::drawing
