#include "unnamed/space.hpp"

#include <algorithm>
#include <limits>

#include "unnamed/starts.hpp"

namespace undershelf {

std::uint64_t FreeSpace::end_of(std::uint64_t offset) const {
    const auto& ranges = claimed_.ranges();
    const auto it = std::upper_bound(ranges.begin(), ranges.end(), offset,
                                     [](std::uint64_t at, const ByteRange& r) { return at < r.offset; });
    if (it != ranges.begin() && std::prev(it)->contains(offset)) return offset;
    return std::max(offset, it == ranges.end() ? size_ : std::min(size_, it->offset));
}

Grids::Grids(const std::vector<Volume>& volumes) {
    auto sorted = volumes;
    std::stable_sort(sorted.begin(), sorted.end(), [](const Volume& a, const Volume& b) {
        const bool a_former = a.state == VolumeState::former, b_former = b.state == VolumeState::former;
        return a_former != b_former ? b_former : a.support > b.support;
    });
    for (const auto& v : sorted) {
        const auto end = v.offset + v.size;
        if (v.cluster_size == 0 || v.grid_start >= end) continue;
        grids_.push_back({{v.grid_start, end - v.grid_start}, v.cluster_size, v.number});
    }
}

std::uint64_t Grids::step_at(std::uint64_t offset) const {
    std::uint64_t step = 0;
    bool known = false;
    for (const auto& g : grids_) {
        if (!g.range.contains(offset)) continue;
        known = true;
        if ((offset - g.range.offset) % g.step == 0) step = step ? std::min(step, g.step) : g.step;
    }
    return known ? step : offset % start_step == 0 ? start_step : 0;
}

std::uint64_t Grids::next_step(std::uint64_t offset) const {
    std::optional<std::uint64_t> next;
    for (const auto& g : grids_) {
        if (!g.range.contains(offset)) continue;
        const auto into = (offset - g.range.offset) % g.step;
        const auto at = into == 0 ? offset : offset + g.step - into;
        next = std::min(next.value_or(at), at);
    }
    return next.value_or((offset + start_step - 1) / start_step * start_step);
}

std::optional<int> Grids::volume_at(std::uint64_t offset) const {
    for (const auto& g : grids_) {
        if (g.range.contains(offset)) return g.volume;
    }
    return std::nullopt;
}

std::uint64_t Grids::end_at(std::uint64_t offset) const {
    std::uint64_t end = 0;
    bool known = false;
    for (const auto& g : grids_) {
        if (!g.range.contains(offset)) continue;
        known = true;
        if ((offset - g.range.offset) % g.step == 0) end = std::max(end, g.range.end());
    }
    return known ? end : std::numeric_limits<std::uint64_t>::max();
}

}  // namespace undershelf
