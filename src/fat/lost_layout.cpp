#include "fat/lost_layout.hpp"

#include <algorithm>
#include <bit>

namespace undershelf::fat {

LostLayout::LostLayout(const Table& table, std::vector<LiveExtent> live)
    : table_(table), live_(std::move(live)) {
    std::sort(live_.begin(), live_.end(),
              [](const LiveExtent& a, const LiveExtent& b) { return a.run.first < b.run.first; });
}

bool LostLayout::was_in_use(Cluster c, std::int64_t written) const {
    if (!table_.in_use(c)) return false;
    const auto after = std::upper_bound(live_.begin(), live_.end(), c,
                                        [](Cluster at, const LiveExtent& e) { return at < e.run.first; });
    if (after == live_.begin()) return true;
    const auto& owner = *std::prev(after);
    if (c - owner.run.first >= owner.run.count) return true;
    return owner.created == 0 || written == 0 || owner.created <= written;
}

Cluster LostLayout::next(Cluster last, std::int64_t written) const {
    for (Cluster c = last + 1; table_.geometry().holds(c); ++c) {
        if (!was_in_use(c, written)) return c;
    }
    return 0;
}

LostLayout::Guess LostLayout::guess(Cluster start, std::uint64_t clusters, std::int64_t written) const {
    Guess out;
    std::uint64_t count = 0;
    for (Cluster c = start; c != 0 && count < clusters; c = next(c, written)) {
        append_cluster(out.runs, c);
        ++count;
        if (count == clusters) break;
    }
    out.stepped = out.runs.size() > 1;
    return out;
}

std::size_t LayoutHabit::size_class(std::uint64_t clusters) {
    // 1, 2-3, 4-15, 16-63, 64-255, ...: each class four times the one before.
    return std::min<std::size_t>(
        7, static_cast<std::size_t>(std::bit_width(std::max<std::uint64_t>(clusters, 1)) + 1) / 2);
}

void LayoutHabit::count(std::uint64_t clusters, bool contiguous) {
    auto& share = classes_[size_class(clusters)];
    ++share.files;
    share.contiguous += contiguous;
}

}  // namespace undershelf::fat
