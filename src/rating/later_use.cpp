#include "rating/later_use.hpp"

#include <algorithm>

namespace undershelf {

void LaterUse::add(const Claimant& c) {
    const auto traits = traits_.find(c.volume);
    if (traits == traits_.end()) return;
    const auto bytes = total_length(c.ranges);
    if (c.origin == Origin::live) {
        lives_[c.volume].live += bytes;
    } else if (const auto recorded = recorded_bytes(c.layout, traits->second); bytes > recorded) {
        lives_[c.volume].guessed.push_back({c.written(), bytes - recorded});
    }
}

void LaterUse::settle() {
    for (auto& [number, life] : lives_) {
        std::sort(life.guessed.begin(), life.guessed.end(),
                  [](const Step& a, const Step& b) { return a.ticks < b.ticks; });
        std::uint64_t sum = 0;
        for (auto it = life.guessed.rbegin(); it != life.guessed.rend(); ++it) it->bytes = sum += it->bytes;
    }
}

double LaterUse::share(int volume, std::int64_t ticks) const {
    const auto it = lives_.find(volume);
    if (it == lives_.end() || ticks == unknown_rank) return 0;
    const auto& guessed = it->second.guessed;
    const auto later = std::upper_bound(guessed.begin(), guessed.end(), ticks,
                                        [](std::int64_t t, const Step& s) { return t < s.ticks; });
    if (later == guessed.end()) return 0;
    const auto size = traits_.at(volume).size, live = it->second.live;
    return live < size ? std::min(1.0, static_cast<double>(later->bytes) / static_cast<double>(size - live))
                       : 1;
}

}  // namespace undershelf
