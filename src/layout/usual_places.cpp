#include "layout/usual_places.hpp"

#include <algorithm>
#include <bit>

#include "base/units.hpp"

namespace undershelf {

namespace {

/// The first odd multiple of `step`, a power of two, from `from` on.
std::uint64_t odd_multiple(std::uint64_t step, std::uint64_t from) {
    const auto n = from / step + (from % step != 0);
    return (n | 1) * step;
}
}  // namespace

UsualPlaces::UsualPlaces(const ByteRange& stretch)
    : stretch_(stretch),
      aligned_((stretch.offset + mebibyte - 1) / mebibyte * mebibyte),
      step_(std::bit_floor(std::max(stretch.end(), mebibyte))),
      at_(odd_multiple(step_, aligned_)) {}

std::optional<std::uint64_t> UsualPlaces::next() {
    while (told_ < near_start) {
        const auto n = told_++;
        const auto place = n == 0   ? stretch_.offset
                           : n == 1 ? stretch_.offset + track
                                    : aligned_ + (n - 2) * mebibyte;
        if (place < stretch_.end() && (n < 2 || place != stretch_.offset)) return place;
    }
    return next_round();
}

std::optional<std::uint64_t> UsualPlaces::next_round() {
    const auto near_end = aligned_ + (near_start - 2) * mebibyte;
    while (step_ >= mebibyte) {
        const auto place = at_;
        if (place >= stretch_.end()) {
            step_ /= 2;
            if (step_ >= mebibyte) at_ = odd_multiple(step_, near_end);
            continue;
        }
        at_ += 2 * step_;
        if (place >= near_end) return place;
    }
    return std::nullopt;
}

}  // namespace undershelf
