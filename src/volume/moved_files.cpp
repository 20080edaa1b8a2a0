#include "volume/moved_files.hpp"

#include <algorithm>
#include <compare>
#include <map>
#include <tuple>

#include "base/text.hpp"

namespace undershelf {

namespace {

constexpr std::int64_t ticks_a_day = 86'400 * Timestamp::per_second;

/// Ticks of a time by its own clock; nothing for midnight.
std::optional<std::int64_t> with_time_of_day(const MaybeTime& time) {
    if (!time) return std::nullopt;
    constexpr std::int64_t minute = 60 * Timestamp::per_second;
    const auto by_clock = time->ticks + (time->is_local() ? 0 : time->offset_minutes * minute);
    return by_clock % ticks_a_day ? std::optional(time->ticks) : std::nullopt;
}

/// A file is not born in a folder that was made later.
bool cannot_be_first(const LostPlace& p) {
    return p.folder_born && p.created && *p.folder_born > p.created->ticks;
}

/// What tells which of two places came later, the strongest first. A move keeps the dates that an entry has,
/// so that the later entry's are never the older ones.
auto lateness(const LostPlace& p) {
    const auto known = [](const MaybeTime& t) { return t ? std::optional(t->ticks) : std::nullopt; };
    return std::tuple(p.in_use, p.binned, known(p.modified), known(p.accessed), cannot_be_first(p));
}

/// What one file has alike. Nothing where too little is recorded.
using Likeness = std::tuple<int, std::uint64_t, bool, std::uint64_t, std::int64_t, std::int64_t, std::string>;
std::optional<Likeness> likeness_of(const LostPlace& p) {
    if (!p.start) return std::nullopt;
    const auto born = with_time_of_day(p.created), changed = with_time_of_day(p.modified);
    const auto size = p.is_dir ? 0 : p.size;
    if (born) return Likeness{p.volume, *p.start, p.is_dir, size, *born, 0, {}};
    if (p.is_dir || !changed) return std::nullopt;
    return Likeness{p.volume, *p.start, p.is_dir, size, ticks_of(p.created), *changed, p.ext};
}

class Groups {
  public:
    explicit Groups(std::vector<LostPlace> places) : places_(std::move(places)), group_(places_.size()) {
        for (std::size_t i = 0; i < places_.size(); ++i) group_[i] = i;
    }

    std::vector<std::vector<LostPlace>> take() {
        std::map<std::size_t, std::vector<LostPlace>> groups;
        for (std::size_t i = 0; i < places_.size(); ++i) groups[group_of(i)].push_back(std::move(places_[i]));
        std::vector<std::vector<LostPlace>> out;
        for (auto& [first, group] : groups) {
            // Two that were in use at once are crosslinked, and two files.
            const auto in_use = std::count_if(group.begin(), group.end(), [](auto& p) { return p.in_use; });
            if (group.size() > 1 && in_use <= 1) out.push_back(std::move(group));
        }
        return out;
    }

    void join_alike() {
        std::map<Likeness, std::size_t> first;
        for (std::size_t i = 0; i < places_.size(); ++i) {
            const auto likeness = likeness_of(places_[i]);
            if (!likeness) continue;
            const auto [it, fresh] = first.emplace(*likeness, i);
            if (!fresh) join(it->second, i);
        }
    }

    /// What a bin's record names as the place of before.
    void join_told() {
        using Place = std::tuple<int, std::optional<std::uint64_t>, std::uint64_t, std::string>;
        std::multimap<Place, std::size_t> told;
        for (std::size_t i = 0; i < places_.size(); ++i) {
            const auto& p = places_[i];
            if (p.binned && !p.is_dir && !p.told.empty())
                told.emplace(Place{p.volume, p.start, p.size, folded(p.told)}, i);
        }
        if (told.empty()) return;
        for (std::size_t i = 0; i < places_.size(); ++i) {
            const auto& p = places_[i];
            const bool may_be_moved = p.start || p.layout == Layout::none;
            if (p.binned || p.is_dir || !may_be_moved) continue;
            const auto [from, to] = told.equal_range({p.volume, p.start, p.size, folded(p.path())});
            for (auto it = from; it != to; ++it) join(i, it->second);
        }
    }

  private:
    std::size_t group_of(std::size_t i) {
        while (group_[i] != i) i = group_[i] = group_[group_[i]];
        return i;
    }
    void join(std::size_t a, std::size_t b) { group_[group_of(b)] = group_of(a); }

    std::vector<LostPlace> places_;
    std::vector<std::size_t> group_;  ///< of each place another one of its group, or itself
};

}  // namespace

bool is_known_later(const LostPlace& later, const LostPlace& earlier) {
    const auto order = lateness(later) <=> lateness(earlier);
    if (order != 0) return order > 0;
    return later.folder == earlier.folder && later.slot > earlier.slot;
}

std::vector<std::vector<LostPlace>> group_moved(std::vector<LostPlace> places) {
    Groups groups(std::move(places));
    groups.join_alike();
    groups.join_told();
    auto out = groups.take();
    for (auto& group : out) {
        std::sort(group.begin(), group.end(), [](const LostPlace& a, const LostPlace& b) {
            return std::tuple(lateness(a), a.slot, a.id) > std::tuple(lateness(b), b.slot, b.id);
        });
        if (group.size() > most_earlier_names + 1)
            group.erase(group.begin() + most_earlier_names + 1, group.end());
    }
    return out;
}

}  // namespace undershelf
