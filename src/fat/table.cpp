#include "fat/table.hpp"

#include <algorithm>

namespace undershelf::fat {

namespace {

/// Values from here on are end marks, in 28 bits for all widths; the one before marks bad clusters.
constexpr std::uint32_t end_mark = 0x0FFFFFF8;

/// Widens a 12- or 16-bit value so that its marks read like FAT32's.
std::uint32_t widened(std::uint32_t value, Width width) {
    switch (width) {
        case Width::fat12:
            return value >= 0xFF7 ? 0x0FFFF000 | value : value;
        case Width::fat16:
            return value >= 0xFFF7 ? 0x0FFF0000 | value : value;
        case Width::fat32:
            return value & 0x0FFFFFFF;
    }
    return value;
}

bool ends_well(const Chain& chain) {
    return chain.end == ChainEnd::end_mark && !chain.crosses;
}

clusters::TableEntries copy_of(const Source& source, std::uint64_t volume, const Geometry& g, unsigned copy) {
    return {source,
            {volume + g.fat_offset + std::min(copy, g.fat_count - 1) * g.fat_size, g.fat_size},
            static_cast<unsigned>(g.width)};
}

clusters::TableEntries copy_of(const Source& source, const Geometry& g,
                               const std::vector<clusters::OldFat>& left, std::size_t copy) {
    if (left.empty()) return {source, {}, static_cast<unsigned>(g.width)};
    const auto& fat = left[std::min(copy, left.size() - 1)];
    return {source, {fat.place, fat.end() - fat.place}, static_cast<unsigned>(g.width), fat.left};
}

/// Entries 0 and 1 are no clusters'.
std::uint64_t clusters_of(const Geometry& g, std::uint64_t entries) {
    return std::min<std::uint64_t>(g.cluster_count, entries > 2 ? entries - 2 : 0);
}
}  // namespace

Table::Table(const Source& source, std::uint64_t volume_offset, const Geometry& geometry, Usage usage)
    : UseBooks(geometry.grid(volume_offset),
               clusters_of(geometry, copy_of(source, volume_offset, geometry, 0).on_source())),
      geometry_(geometry),
      copies_{copy_of(source, volume_offset, geometry, 0), copy_of(source, volume_offset, geometry, 1)},
      differs_(known_) {
    if (usage == Usage::read) load_usage();
}

Table::Table(const Source& source, std::uint64_t volume_offset, const Geometry& geometry,
             const std::vector<clusters::OldFat>& left)
    : UseBooks(geometry.grid(volume_offset), geometry.grid(volume_offset).within(source.size()),
               clusters::use_by(source, geometry.grid(volume_offset), left)),
      geometry_(geometry),
      copies_{copy_of(source, geometry, left, 0), copy_of(source, geometry, left, 1)},
      differs_(known_) {
    geometry_.fat_count = left.size() > 1 ? 2 : 1;
    // Nobody knows where the copies differ, so both are followed.
    differs_.add(2, known_ + 2);
}

std::optional<std::uint32_t> Table::entry(unsigned copy, Cluster c) const {
    const auto value = copies_[copy].at(c);
    return value ? std::optional(widened(*value, geometry_.width)) : std::nullopt;
}

std::optional<std::uint32_t> Table::best_entry(unsigned copy, Cluster c) const {
    const auto value = entry(copy, c);
    if (value || geometry_.fat_count < 2 || !geometry_.mirrored) return value;
    return entry(1 - copy, c);
}

void Table::load_usage() {
    const auto first = geometry_.active_fat;
    const bool compare = geometry_.fat_count == 2 && geometry_.mirrored;
    const auto per_window = copies_[first].per_window();
    const bool skipping = geometry_.width != Width::fat12;
    for (std::uint64_t at = 2; at < known_ + 2; ++at) {
        const auto c = static_cast<Cluster>(at);
        if (skipping && c % per_window == 0 && copies_[first].window_is_zero(c) &&
            (!compare || copies_[1 - first].window_is_zero(c))) {
            at += per_window - 1;
            continue;
        }
        const auto value = best_entry(first, c);
        if (value.value_or(0) != 0) used_.add(c);
        if (!compare) continue;
        const auto other = entry(1 - first, c);
        if (value && other && *value != *other) differs_.add(c);
    }
}

Chain Table::follow_in(unsigned copy, Cluster start, const ChainLimits& limits,
                       const ClusterSet& taken) const {
    return clusters::follow_chain(grid_, start, limits, taken, end_mark,
                                  [&](Cluster c) { return best_entry(copy, c); });
}

Chain Table::follow(Cluster start, std::uint64_t wanted, const ChainLimits& limits,
                    const ClusterSet& taken) const {
    auto chain = follow_in(geometry_.active_fat, start, limits, taken);
    const bool differs =
        std::any_of(chain.runs.begin(), chain.runs.end(), [&](const Run& r) { return differs_.any(r); });
    if (!differs) return chain;
    auto other = follow_in(1 - geometry_.active_fat, start, limits, taken);
    const auto fits = [wanted](const Chain& c) { return wanted != 0 && c.clusters() == wanted; };
    const int score = 2 * fits(chain) + ends_well(chain), other_score = 2 * fits(other) + ends_well(other);
    if (other_score > score) {
        other.second_copy = true;
        return other;
    }
    return chain;
}

}  // namespace undershelf::fat
