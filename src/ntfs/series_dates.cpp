#include "ntfs/series_dates.hpp"

namespace undershelf::ntfs {

namespace {
/// Files of one series whose neighbours lie no further apart are of one sitting.
constexpr std::int64_t within = 3600 * Timestamp::per_second;

/// What the names of a series have in common: all but the values of digits. Nothing for a name without any.
std::optional<std::u16string> series_of(const std::u16string& name) {
    bool has_digit = false;
    auto out = name;
    for (auto& c : out) {
        if (c < u'0' || c > u'9') continue;
        c = u'0';
        has_digit = true;
    }
    return has_digit ? std::optional(std::move(out)) : std::nullopt;
}
}  // namespace

void SeriesDates::add(const std::u16string& name, const MaybeTime& modified) {
    const auto key = modified ? series_of(name) : std::nullopt;
    if (!key) return;
    const auto [it, fresh] = series_.emplace(*key, Series{*modified, *modified, 0});
    auto& s = it->second;
    ++s.names;
    if (modified->ticks < s.first.ticks) s.first = *modified;
    if (modified->ticks > s.last.ticks) s.last = *modified;
}

std::optional<SeriesDates::Argued> SeriesDates::date_of(const std::u16string& name) const {
    const auto key = series_of(name);
    const auto it = key ? series_.find(*key) : series_.end();
    if (it == series_.end()) return std::nullopt;
    const auto& s = it->second;
    if (s.names < 2 || s.last.ticks - s.first.ticks > within) return std::nullopt;
    return Argued{s.last, s.names};
}

}  // namespace undershelf::ntfs
