#include "fat/table.hpp"

#include <algorithm>
#include <unordered_set>

namespace undershelf::fat {

namespace {
constexpr std::uint64_t window_size = 64 << 10;

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
}  // namespace

void append_cluster(std::vector<Run>& runs, Cluster cluster) {
    if (!runs.empty() && runs.back().first + runs.back().count == cluster) {
        ++runs.back().count;
    } else {
        runs.push_back({cluster, 1});
    }
}

Table::Table(const Source& source, std::uint64_t volume_offset, const Geometry& geometry)
    : source_(source),
      volume_offset_(volume_offset),
      geometry_(geometry),
      used_(geometry.cluster_count),
      differs_(geometry.cluster_count) {
    load_usage();
}

std::optional<std::uint32_t> Table::entry(unsigned copy, Cluster c) const {
    const unsigned bits = static_cast<unsigned>(geometry_.width);
    const std::uint64_t at = std::uint64_t{c} * bits / 8;
    const unsigned bytes = bits == 32 ? 4 : 2;
    if (at + bytes > geometry_.fat_size) return std::nullopt;
    auto& window = windows_[copy];
    // Windows overlap by a few bytes, since a 12-bit entry may lie across two of them.
    const auto start = at / window_size * window_size;
    const auto fat_start = volume_offset_ + geometry_.fat_offset + copy * geometry_.fat_size;
    if (window.start != start) {
        window.bytes.resize(static_cast<std::size_t>(std::min(window_size + 4, geometry_.fat_size - start)));
        window.missing = source_.read(fat_start + start, window.bytes);
        window.start = start;
    }
    for (const auto& m : window.missing) {
        if (overlap(m, {fat_start + at, bytes})) return std::nullopt;
    }
    const std::uint8_t* p = window.bytes.data() + (at - start);
    std::uint32_t value = p[0] | p[1] << 8;
    if (bits == 32) value |= p[2] << 16 | static_cast<std::uint32_t>(p[3]) << 24;
    if (bits == 12) value = c % 2 ? value >> 4 : value & 0xFFF;
    return widened(value, geometry_.width);
}

std::optional<std::uint32_t> Table::best_entry(unsigned copy, Cluster c) const {
    const auto value = entry(copy, c);
    if (value || geometry_.fat_count < 2 || !geometry_.mirrored) return value;
    return entry(1 - copy, c);
}

/// True when the whole window that holds `c` reads as free clusters, which most of a big volume does.
bool Table::window_is_free(unsigned copy, Cluster c) const {
    const auto value = entry(copy, c);
    return value == 0u && windows_[copy].missing.empty() && all_zero(windows_[copy].bytes);
}

void Table::load_usage() {
    const auto first = geometry_.active_fat;
    const bool compare = geometry_.fat_count == 2 && geometry_.mirrored;
    const auto per_window = static_cast<Cluster>(window_size * 8 / static_cast<unsigned>(geometry_.width));
    const bool skipping = geometry_.width != Width::fat12;
    for (Cluster c = 2; c < geometry_.cluster_count + 2; ++c) {
        if (skipping && c % per_window == 0 && window_is_free(first, c) &&
            (!compare || window_is_free(1 - first, c))) {
            c += per_window - 1;
            continue;
        }
        const auto value = best_entry(first, c);
        if (value.value_or(0) != 0) {
            used_.add(c);
            ++used_count_;
        }
        if (!compare) continue;
        const auto other = entry(1 - first, c);
        if (value && other && *value != *other) {
            differs_.add(c);
            ++differing_;
        }
    }
}

namespace {
/// Cuts a chain that came back to itself where it first does, so that every cluster stands in it once.
void cut_loop(Chain& chain) {
    std::unordered_set<Cluster> seen;
    std::vector<Run> kept;
    for (const auto& run : chain.runs) {
        for (Cluster c = run.first; c < run.first + run.count; ++c) {
            if (!seen.insert(c).second) {
                chain.runs = std::move(kept);
                chain.end = ChainEnd::loop;
                return;
            }
            append_cluster(kept, c);
        }
    }
}
}  // namespace

Chain Table::follow_in(unsigned copy, Cluster start, const Limits& limits, const ClusterSet& taken,
                       bool* met_difference) const {
    Chain chain;
    std::uint64_t count = 0, next_mark = 1;
    // Brent's cycle detection: a mark that moves on at every power of two meets any loop.
    Cluster c = start, mark = 0;
    while (geometry_.holds(c)) {
        if (count >= limits.most || (chain.crosses && count >= limits.crossing)) {
            chain.end = ChainEnd::limit;
            cut_loop(chain);
            return chain;
        }
        if (c == mark) {
            chain.end = ChainEnd::loop;
            cut_loop(chain);
            return chain;
        }
        append_cluster(chain.runs, c);
        if (++count == next_mark) {
            mark = c;
            next_mark *= 2;
        }
        chain.crosses |= taken.has(c);
        if (met_difference) *met_difference |= differs_.has(c);
        const auto next = best_entry(copy, c);
        if (!next) {
            chain.end = ChainEnd::unreadable;
            return chain;
        }
        c = *next;
    }
    chain.end = c >= end_mark ? ChainEnd::end_mark : c == 0 ? ChainEnd::free_entry : ChainEnd::outside;
    return chain;
}

Chain Table::follow(Cluster start, std::uint64_t wanted, const Limits& limits,
                    const ClusterSet& taken) const {
    bool differs = false;
    auto chain = follow_in(geometry_.active_fat, start, limits, taken, &differs);
    if (!differs) return chain;
    auto other = follow_in(1 - geometry_.active_fat, start, limits, taken, nullptr);
    const auto fits = [wanted](const Chain& c) { return wanted != 0 && c.clusters() == wanted; };
    const int score = 2 * fits(chain) + ends_well(chain), other_score = 2 * fits(other) + ends_well(other);
    if (other_score > score) {
        other.second_copy = true;
        return other;
    }
    return chain;
}

}  // namespace undershelf::fat
