#include "drawing/picture.hpp"

#include <algorithm>

namespace undershelf::drawing {

RowScaler::RowScaler(std::uint64_t width, std::uint64_t height, std::uint32_t pixels)
    : width_(width), height_(height) {
    if (width == 0 || height == 0 || width > 0x7FFFFFFF || height > 0x7FFFFFFF)
        throw Undrawable{"it has no pixels"};
    step_ = std::max<std::uint64_t>(1, std::max(width, height) / std::max(pixels, 1u));
    out_.width = static_cast<int>((width + step_ - 1) / step_);
    out_.height = static_cast<int>((height + step_ - 1) / step_);
    out_.full_width = static_cast<std::uint32_t>(width);
    out_.full_height = static_cast<std::uint32_t>(height);
    out_.argb.reserve(static_cast<std::size_t>(out_.width) * static_cast<std::size_t>(out_.height));
    sums_.assign(static_cast<std::size_t>(out_.width) * 4, 0);
}

void RowScaler::row(const std::uint8_t* rgba) {
    if (rows_ >= height_) return;
    auto* sums = sums_.data();
    for (std::uint64_t x = 0; x < width_; sums += 4) {
        for (const auto end = std::min(width_, x + step_); x < end; ++x, rgba += 4) {
            const std::uint64_t alpha = rgba[3];
            sums[0] += rgba[0] * alpha;
            sums[1] += rgba[1] * alpha;
            sums[2] += rgba[2] * alpha;
            sums[3] += alpha;
        }
    }
    ++rows_;
    if (++in_band_ == step_ || rows_ == height_) flush();
}

void RowScaler::flush() {
    for (std::uint64_t x = 0; x < static_cast<std::uint64_t>(out_.width); ++x) {
        auto* sums = &sums_[static_cast<std::size_t>(x) * 4];
        const auto count = std::min(step_, width_ - x * step_) * in_band_;
        const auto mean = [&](std::uint64_t sum) {
            return static_cast<std::uint32_t>((sum + count * 255 / 2) / (count * 255));
        };
        const auto alpha = static_cast<std::uint32_t>((sums[3] + count / 2) / count);
        out_.argb.push_back(alpha << 24 | std::min(alpha, mean(sums[0])) << 16 |
                            std::min(alpha, mean(sums[1])) << 8 | std::min(alpha, mean(sums[2])));
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
