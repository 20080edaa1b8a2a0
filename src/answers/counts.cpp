#include "answers/counts.hpp"

#include <algorithm>
#include <tuple>

namespace undershelf {

Rows rows_of(const Shelf& shelf, Shelf::TallyBy by) {
    Rows out;
    for (const auto& t : shelf.tally(by)) {
        auto& row = out[static_cast<int>(t.key)];
        if (t.is_dir) {
            row.folders += t.entries;
            continue;
        }
        row.files += t.entries;
        row.bytes += t.bytes;
        row.by_grade[static_cast<std::size_t>(t.grade)] += t.entries;
    }
    return out;
}

Rows live_by_volume(const Shelf& shelf) {
    Rows out;
    for (const auto& t : shelf.tally(Shelf::TallyBy::live_volume)) {
        auto& row = out[static_cast<int>(t.key)];
        (t.is_dir ? row.folders : row.files) += t.entries;
        row.bytes += t.is_dir ? 0 : t.bytes;
    }
    return out;
}

Totals totals_of(const Rows& by_origin) {
    Totals out;
    for (const auto& [origin, c] : by_origin) {
        auto& to = static_cast<Origin>(origin) == Origin::live ? out.live : out.lost;
        to.folders += c.folders;
        to.files += c.files;
        to.bytes += c.bytes;
        for (std::size_t i = 0; i < c.by_grade.size(); ++i) to.by_grade[i] += c.by_grade[i];
    }
    return out;
}

std::uint64_t likely_or_better(const Counts& c) {
    return c.by_grade[static_cast<std::size_t>(Grade::likely)] +
           c.by_grade[static_cast<std::size_t>(Grade::verified)];
}

std::vector<Volume> best_first(std::vector<Volume> volumes, const Rows& by_volume) {
    const auto rank = [&](const Volume& v) {
        const auto it = by_volume.find(v.number);
        const auto files = it == by_volume.end() ? 0 : likely_or_better(it->second);
        return std::tuple(v.state == VolumeState::present, files, v.support);
    };
    std::stable_sort(volumes.begin(), volumes.end(),
                     [&](const Volume& a, const Volume& b) { return rank(a) > rank(b); });
    return volumes;
}

}  // namespace undershelf
