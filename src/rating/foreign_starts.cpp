#include "rating/foreign_starts.hpp"

namespace undershelf {

namespace {
/// Starts within one content that are looked at.
constexpr int most_looks = 64;
}  // namespace

std::optional<std::int64_t> ForeignStarts::within(const Pass& pass, const StartLook& look) const {
    auto recorded = pass.recorded;
    int looks = 0;
    for (const auto& range : pass.ranges) {
        const auto skipped = std::min(recorded, range.length);
        recorded -= skipped;
        auto it = std::lower_bound(starts_.begin(), starts_.end(), range.offset + skipped,
                                   [](const Start& s, std::uint64_t at) { return s.place < at; });
        for (; it != starts_.end() && it->place < range.end() && looks < most_looks; ++it) {
            if (it->identity == pass.identity) continue;
            ++looks;
            if (look(it->entry) == Agreement::agrees) return it->entry;
        }
    }
    return std::nullopt;
}

std::unordered_map<std::uint64_t, std::int64_t> ForeignStarts::settle(const StartLook& look) {
    std::sort(starts_.begin(), starts_.end(),
              [](const Start& a, const Start& b) { return a.place < b.place; });
    std::unordered_map<std::uint64_t, std::int64_t> out;
    for (const auto& pass : passes_) {
        if (const auto other = within(pass, look)) out.emplace(pass.identity, *other);
    }
    return out;
}

}  // namespace undershelf
