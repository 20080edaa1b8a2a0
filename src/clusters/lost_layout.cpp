#include "clusters/lost_layout.hpp"

#include <algorithm>
#include <bit>

namespace undershelf::clusters {

LostLayout::LostLayout(const Grid& grid, ClusterSet busy, std::vector<LiveExtent> live)
    : grid_(grid), busy_(std::move(busy)), live_(std::move(live)) {
    std::sort(live_.begin(), live_.end(),
              [](const LiveExtent& a, const LiveExtent& b) { return a.run.first < b.run.first; });
    leaves_ = std::bit_ceil(std::max<std::size_t>(live_.size(), 1));
    latest_.assign(2 * leaves_, 0);
    for (std::size_t i = 0; i < live_.size(); ++i) latest_[leaves_ + i] = live_[i].created;
    for (auto i = leaves_ - 1; i > 0; --i) latest_[i] = std::max(latest_[2 * i], latest_[2 * i + 1]);
}

const LiveExtent* LostLayout::owner_of(std::uint64_t c) const {
    const auto after =
        std::upper_bound(live_.begin(), live_.end(), c,
                         [](std::uint64_t at, const LiveExtent& e) { return at < e.run.first; });
    if (after == live_.begin()) return nullptr;
    const auto& owner = *std::prev(after);
    return c < owner.run.end() ? &owner : nullptr;
}

/// The first extent from index `from` on whose owner was made after `now`; live_.size() for none.
std::size_t LostLayout::first_younger(std::size_t from, std::int64_t now) const {
    if (from >= live_.size()) return live_.size();
    // Up until a tree to the right has one, then down to its first.
    auto node = leaves_ + from;
    while (latest_[node] <= now) {
        while (node & 1) node >>= 1;  // a right child, or the root: nothing beside it
        if (node == 0) return live_.size();
        ++node;
    }
    while (node < leaves_) node = latest_[2 * node] > now ? 2 * node : 2 * node + 1;
    return node - leaves_;
}

std::uint64_t LostLayout::next_to_take(std::uint64_t c, std::int64_t now) const {
    if (!grid_.holds(c)) return grid_.end();
    if (!busy_.has(c)) return c;
    auto next = std::min(busy_.next_out(c), grid_.end());
    if (now == 0) return next;
    const auto* owner = owner_of(c);
    if (owner && owner->created > now) return c;
    const auto after =
        std::upper_bound(live_.begin(), live_.end(), c,
                         [](std::uint64_t at, const LiveExtent& e) { return at < e.run.first; });
    const auto younger = first_younger(static_cast<std::size_t>(after - live_.begin()), now);
    return younger < live_.size() ? std::min<std::uint64_t>(next, live_[younger].run.first) : next;
}

std::uint64_t LostLayout::end_of_stretch(std::uint64_t c, std::uint64_t most) const {
    if (!busy_.has(c)) return busy_.next_in(c, std::min(grid_.end(), c + most));
    const auto* owner = owner_of(c);
    return owner ? owner->run.end() : c + 1;
}

namespace {
/// One after the run of `avoid` that holds the cluster, itself where none does.
std::uint64_t behind(const std::vector<Run>& avoid, std::uint64_t c) {
    for (const auto& run : avoid) {
        if (run.first <= c && c < run.end()) c = run.end();
    }
    return c;
}

/// The first cluster from `c` on that is in `avoid`.
std::uint64_t next_in(const std::vector<Run>& avoid, std::uint64_t c) {
    const auto it = std::find_if(avoid.begin(), avoid.end(), [c](const Run& run) { return run.first >= c; });
    return it == avoid.end() ? ~0ull : it->first;
}
}  // namespace

LostLayout::Guess LostLayout::guess(Cluster start, std::uint64_t clusters, std::int64_t written,
                                    std::uint64_t most_runs, const std::vector<Run>& avoid) const {
    Guess out;
    if (clusters == 0) return out;
    out.runs.push_back({start, 1});
    auto left = clusters - 1;
    const auto now = written == 0 ? 0 : written + date_resolution;
    for (auto c = next_to_take(std::uint64_t{start} + 1, now); left > 0 && c < grid_.end();
         c = next_to_take(c, now)) {
        if (const auto next = behind(avoid, c); next != c) {
            c = next;
            continue;
        }
        const auto end = std::min(end_of_stretch(c, left), next_in(avoid, c));
        const auto n = std::min(left, end - c);
        if (out.runs.size() >= most_runs && out.runs.back().end() != c) {
            out.cut = true;
            break;
        }
        append_run(out.runs, {static_cast<Cluster>(c), static_cast<std::uint32_t>(n)});
        left -= n;
        c = end;
    }
    return out;
}

LostLayout::Breaks LostLayout::breaks_of(const std::vector<Run>& runs, std::int64_t written) const {
    const auto now = written == 0 ? 0 : written + date_resolution;
    for (std::size_t i = 0; i + 1 < runs.size(); ++i) {
        const auto next = next_to_take(runs[i].end(), now);
        if (i == 0 && next == runs[i].end()) return Breaks::causeless;
        // The file's own clusters are in use as well, so that the search may end after them.
        if (runs[i + 1].first < runs[i].end() || next < runs[i + 1].first) return Breaks::elsewhere;
    }
    return Breaks::as_guessed;
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

}  // namespace undershelf::clusters
