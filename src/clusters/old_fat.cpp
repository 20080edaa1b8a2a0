#include "clusters/old_fat.hpp"

#include <algorithm>
#include <map>

#include "clusters/chain.hpp"

namespace undershelf::clusters {

namespace {
constexpr std::uint64_t sector = 512;
constexpr std::uint64_t most_read = 256 << 20;
/// A source made to annoy has a table for every sector.
constexpr std::size_t most_tables = 1 << 16;

/// Could a value be in the table of a volume with this grid? Reserved values are marks.
bool may_be_entry(std::uint32_t value, const Grid& grid, unsigned bits) {
    const std::uint32_t marks = bits == 12 ? 0xFF0 : bits == 16 ? 0xFFF0 : 0x0FFFFFF0;
    const auto low = bits == 32 ? value & 0x0FFFFFFF : value;
    return low <= 1 || grid.holds(low) || low >= marks;
}

/// Adds the sectors around the stretches of a table that could be its own, up to `end`.
void fill_gaps(const Source& source, const Grid& grid, std::uint64_t end, const RangeSet& taken,
               OldFat& table) {
    const std::uint64_t entries = (grid.end() * table.bits + 7) / 8;
    const auto last = std::min({end, table.place + (entries + sector - 1) / sector * sector, source.size()});
    if (last <= table.place) return;
    auto left = most_read;
    const TableEntries view(source, {table.place, last - table.place}, table.bits);
    for (const auto& gap : table.left.gaps_within({table.place, last - table.place})) {
        for (auto at = gap.offset; at < gap.end() && left >= sector; at += sector, left -= sector) {
            const ByteRange range{at, std::min(sector, gap.end() - at)};
            if (taken.touches(range)) continue;
            const auto first = ((at - table.place) * 8 + table.bits - 1) / table.bits;
            const auto behind = (range.end() - table.place) * 8 / table.bits;
            bool fits = true;
            for (auto i = std::max<std::uint64_t>(first, 2); i < behind && fits; ++i) {
                const auto value = view.at(static_cast<Cluster>(i));
                fits = value && may_be_entry(*value, grid, table.bits);
            }
            if (fits) table.left.add(range);
        }
    }
}
}  // namespace

std::vector<OldFat> tables_of(const TraceStore& traces, std::uint32_t kind, const RangeSet& taken) {
    std::map<std::pair<std::uint64_t, unsigned>, std::vector<ByteRange>> tables;
    traces.visit_all(kind, [&](const Trace& trace) {
        const auto stretch = stretch_of(trace);
        if (taken.touches(stretch.range)) return true;
        const std::pair key{stretch.table, stretch.bits};
        if (tables.size() < most_tables || tables.count(key)) tables[key].push_back(stretch.range);
        return true;
    });
    std::vector<OldFat> out;
    for (auto& [key, ranges] : tables) out.push_back({key.first, key.second, RangeSet(std::move(ranges))});
    return out;
}

std::vector<OldFat> tables_before(const Source& source, const std::vector<OldFat>& tables, const Grid& grid,
                                  std::uint64_t lowest, const RangeSet& taken) {
    // Tables are made for their clusters, and a little room after them.
    constexpr std::uint64_t room = 4096;
    std::vector<OldFat> out;
    for (const auto& t : tables) {
        const auto entries = (t.end() - t.place) * 8 / t.bits;
        if (t.place >= lowest && t.end() <= grid.data_offset && entries <= grid.end() + room)
            out.push_back(t);
    }
    std::stable_sort(out.begin(), out.end(),
                     [](const OldFat& a, const OldFat& b) { return a.left.bytes() > b.left.bytes(); });
    const auto bits = out.empty() ? 0 : out.front().bits;
    std::erase_if(out, [&](const OldFat& t) { return t.bits != bits; });
    if (out.size() > 2) out.resize(2);
    std::sort(out.begin(), out.end(), [](const OldFat& a, const OldFat& b) { return a.place < b.place; });
    for (std::size_t i = 0; i < out.size(); ++i)
        fill_gaps(source, grid, i + 1 < out.size() ? out[i + 1].place : grid.data_offset, taken, out[i]);
    return out;
}

OldUse use_by(const Source& source, const Grid& grid, const std::vector<OldFat>& tables) {
    const auto clusters = grid.within(source.size());
    OldUse out{ClusterSet(clusters), ClusterSet(clusters)};
    for (const auto& t : tables) {
        const TableEntries view(source, {t.place, t.end() - t.place}, t.bits);
        for (const auto& r : t.left.ranges()) {
            const auto first = std::max<std::uint64_t>(2, ((r.offset - t.place) * 8 + t.bits - 1) / t.bits);
            const auto behind = std::min((r.end() - t.place) * 8 / t.bits, out.used.end());
            for (auto c = first; c < behind; ++c) {
                const auto value = view.at(static_cast<Cluster>(c));
                if (!value) continue;
                const bool used = (t.bits == 32 ? *value & 0x0FFFFFFF : *value) != 0;
                (used ? out.used : out.free).add(c);
            }
        }
    }
    return out;
}

}  // namespace undershelf::clusters
