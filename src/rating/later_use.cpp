#include "rating/later_use.hpp"

#include <algorithm>

namespace undershelf {

void LaterUse::add(const Claimant& c) {
    const auto traits = traits_.find(c.volume);
    if (traits == traits_.end()) return;
    const auto bytes = total_length(c.ranges);
    auto& life = lives_[c.volume];
    if (c.origin == Origin::live) {
        life.live += bytes;
        return;
    }
    if (c.layout == Layout::known && !c.is_dir && (c.origin == Origin::deleted || c.deleted_before))
        life.gaps += bytes;
    const auto recorded = recorded_bytes(c.layout, traits->second);
    if (bytes <= recorded) return;
    life.guessed.push_back({c.written(), bytes - recorded});
    if (c.chained) life.chained.push_back(life.guessed.back());
}

void LaterUse::settle() {
    for (auto& [number, life] : lives_) {
        for (auto* steps : {&life.guessed, &life.chained}) {
            std::sort(steps->begin(), steps->end(),
                      [](const Step& a, const Step& b) { return a.ticks < b.ticks; });
            std::uint64_t sum = 0;
            for (auto it = steps->rbegin(); it != steps->rend(); ++it) it->bytes = sum += it->bytes;
        }
    }
}

/// Bytes of the steps after `ticks`.
std::uint64_t LaterUse::later_than(const std::vector<Step>& steps, std::int64_t ticks) {
    const auto later = std::upper_bound(steps.begin(), steps.end(), ticks,
                                        [](std::int64_t t, const Step& s) { return t < s.ticks; });
    return later == steps.end() ? 0 : later->bytes;
}

LaterUse::Share LaterUse::share(int volume, std::int64_t ticks) const {
    const auto it = lives_.find(volume);
    if (it == lives_.end() || ticks == unknown_rank) return {};
    const auto& life = it->second;
    const auto of = [&](const std::vector<Step>& steps, std::uint64_t room) {
        const auto bytes = later_than(steps, ticks);
        return bytes == 0  ? 0.0
               : room == 0 ? 1.0
                           : std::min(1.0, static_cast<double>(bytes) / static_cast<double>(room));
    };
    const auto size = traits_.at(volume).size;
    return {of(life.guessed, size - std::min(size, life.live)), of(life.chained, life.gaps)};
}

}  // namespace undershelf
