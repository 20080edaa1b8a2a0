#include "rating/foreign_starts.hpp"

#include <algorithm>

namespace undershelf {

namespace {
/// Starts within one content that are looked at.
constexpr int most_looks = 64;
}  // namespace

void ForeignStarts::add(const Claimant& c) {
    if (c.is_dir || c.ranges.empty() || c.origin == Origin::unnamed || c.origin == Origin::live) return;
    starts_.push_back({c.ranges.front().offset, c.identity, c.id});
}

void ForeignStarts::settle() {
    std::sort(starts_.begin(), starts_.end(),
              [](const Start& a, const Start& b) { return a.place < b.place; });
}

std::optional<std::int64_t> ForeignStarts::within(const Claimant& content, std::uint64_t recorded,
                                                  const StartLook& look) const {
    int looks = 0;
    for (const auto& range : content.ranges) {
        const auto skipped = std::min(recorded, range.length);
        recorded -= skipped;
        auto it = std::lower_bound(starts_.begin(), starts_.end(), range.offset + skipped,
                                   [](const Start& s, std::uint64_t at) { return s.place < at; });
        for (; it != starts_.end() && it->place < range.end() && looks < most_looks; ++it) {
            if (it->identity == content.identity) continue;
            ++looks;
            if (look(it->entry) == Agreement::agrees) return it->entry;
        }
    }
    return std::nullopt;
}

}  // namespace undershelf
