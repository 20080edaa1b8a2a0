#include "exfat/settle.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "base/text.hpp"
#include "base/units.hpp"
#include "exfat/entry_set.hpp"
#include "exfat/loose.hpp"
#include "exfat/root_folder.hpp"
#include "exfat/settler.hpp"
#include "settling/told.hpp"
#include "volume/budget.hpp"

namespace undershelf::exfat {

namespace {
/// Sets that are held against a grid.
constexpr std::size_t most_held = 256;
/// A set by itself may be a piece of anything.
constexpr std::size_t fewest_sets = 2;
}  // namespace

void Settler::gather() {
    const auto each = [&](std::uint32_t kind, const auto& take) {
        s_.traces.visit_all(kind, [&](const Trace& t) {
            if (!s_.taken.contains(t.offset)) take(t);
            return !progress_.stopped();
        });
    };
    each(set_trace, [&](const Trace& t) {
        sets_.push_back(set_of(t));
        if (t.offset % 512 == 0) starts_.insert(t.offset);
    });
    each(root_trace, [&](const Trace& t) { roots_.push_back(root_of(t)); });
    each(up_case_trace, [&](const Trace& t) { up_cases_.push_back(t.offset); });
    each(fat_head_trace, [&](const Trace& t) { fat_heads_.push_back(t.offset); });
    tables_ = clusters::tables_of(s_.traces, table_trace, s_.taken);
}

/// `clusters`: what something says of their number, 0 for nothing.
std::optional<FormerVolume> Settler::grid_at(std::uint64_t heap, std::uint32_t cluster_size,
                                             std::uint64_t clusters) const {
    const auto* around = s_.present_around(heap);
    const auto end = around ? std::min(around->offset + around->size, s_.source.size()) : s_.source.size();
    if (heap >= end) return std::nullopt;
    auto count = std::max<std::uint64_t>(1, (end - heap) / cluster_size);
    if (clusters) count = std::min(count, clusters);
    FormerVolume out;
    out.offset = around ? around->offset : heap;
    out.geometry = make_geometry(cluster_size, heap - out.offset,
                                 static_cast<std::uint32_t>(std::min<std::uint64_t>(count, 0xFFFFFFF5)), 0);
    return out;
}

// What bears a grid out.

bool Settler::is_its_own(const Candidate& c, const SetTrace& set) const {
    if (!c.former.end_date) return true;
    const auto made = made_at(s_.source, set.offset);
    return made != 0 && made < *c.former.end_date;
}

void Settler::weigh_set(const clusters::Grid& grid, const SetTrace& set, Candidate& c) const {
    if (set.first_cluster < 2 || set.length == 0) return;
    if (!grid.holds(set.first_cluster)) {
        c.evidence.outside();
        return;
    }
    const auto place = grid.offset(set.first_cluster);
    if (s_.taken.contains(place)) return;
    if (set.is_dir) {
        // An empty folder's cluster holds zeros, which say nothing.
        const bool begins = starts_.count(place) > 0;
        if (begins || !all_zero(s_.source.read_vector({place, 512}))) c.evidence.folder(begins);
        return;
    }
    const auto read = sound_set(s_.source.read_vector({set.offset, longest_set}));
    if (!read) return;
    const auto first = s_.source.read_vector({place, std::min<std::uint64_t>(set.length, signature_bytes)});
    c.evidence.file(first, extension_of(utf8_from_utf16(read->name)));
}

void Settler::weigh(Candidate& c) const {
    const auto grid = c.former.grid();
    const ByteRange data{grid.data_offset, std::uint64_t{grid.count} * grid.cluster_size};
    const auto from = std::lower_bound(sets_.begin(), sets_.end(), data.offset,
                                       [](const SetTrace& s, std::uint64_t at) { return s.offset < at; });
    const auto to = std::lower_bound(from, sets_.end(), data.end(),
                                     [](const SetTrace& s, std::uint64_t at) { return s.offset < at; });
    const auto step = std::max<std::ptrdiff_t>(1, (to - from) / static_cast<std::ptrdiff_t>(most_held));
    for (auto it = from; it < to; it += std::min(step, to - it)) {
        if (is_its_own(c, *it)) weigh_set(grid, *it, c);
    }
}

/// Only what tells a grid from others speaks for it: where something of one format begins at every cluster,
/// any grid fits as well. Folders tell, but for the one by which the grid was found.
bool Settler::stands_out(const Candidate& c) const {
    constexpr std::int64_t shifts[] = {-64, -16, -4, -2, -1, 1, 2, 4, 16, 64};
    constexpr std::size_t telling_folders = 2;
    constexpr double as_well = 0.8;
    const auto grid = c.former.grid();
    std::size_t tried = 0, fit = 0;
    for (const auto clusters : shifts) {
        const auto by = clusters * static_cast<std::int64_t>(grid.cluster_size);
        if (by < 0 && grid.data_offset < static_cast<std::uint64_t>(-by)) continue;
        auto former = grid_at(grid.data_offset + static_cast<std::uint64_t>(by), grid.cluster_size, 0);
        if (!former || progress_.stopped()) continue;
        former->end_date = c.former.end_date;
        Candidate shifted;
        shifted.former = std::move(*former);
        weigh(shifted);
        ++tried;
        fit += shifted.evidence.weight() >= as_well * c.evidence.weight() &&
               c.evidence.folders() <= shifted.evidence.folders() + telling_folders;
    }
    return 2 * fit < tried || tried == 0;
}

/// What a present volume's own grid explains as well is its own: folders that it has lost track of.
bool Settler::present_that_explains(const Candidate& c) const {
    constexpr double as_well = 0.9;
    for (const auto& life : s_.present) {
        const auto& v = life.volume;
        if (v.family != "exFAT" || v.state != VolumeState::present || v.cluster_size == 0) continue;
        if (!ByteRange{v.offset, v.size}.contains(c.former.grid().data_offset)) continue;
        auto former = grid_at(v.grid_start, v.cluster_size, 0);
        if (!former) continue;
        Candidate present;
        present.former = std::move(*former);
        weigh(present);
        if (present.evidence.bears_out() && present.evidence.strength() >= as_well * c.evidence.strength())
            return true;
    }
    return false;
}

/// The strongest that nothing but its evidence speaks for is held against what explains as much. What the
/// present volume explains, its own reader lists.
std::optional<Candidate> Settler::best_of(std::vector<Candidate>&& all) {
    for (;;) {
        auto* best = settling::strongest(all);
        if (!best) return slide();
        if (!best->argued || (!present_that_explains(*best) && stands_out(*best))) return std::move(*best);
        best->evidence = {};
    }
}

// What else is left.

/// Nothing was formatted over it when its FAT begins as one, its root and its bitmap are there, and no
/// present volume is there.
void Settler::see_whether_present(Candidate& c) const {
    auto& g = c.former.geometry;
    const auto grid = c.former.grid();
    if (c.former.root.empty() || s_.present_around(grid.data_offset)) return;
    const auto needed = grid.end() * 4;
    const auto head = std::find_if(fat_heads_.rbegin(), fat_heads_.rend(), [&](std::uint64_t place) {
        return place + needed <= grid.data_offset && place >= 24 * 512;
    });
    const auto root = std::find_if(roots_.begin(), roots_.end(), [&](const RootTrace& r) {
        return r.offset >= grid.data_offset && grid.cluster_at(r.offset) == c.former.root.front();
    });
    if (head == fat_heads_.rend() || root == roots_.end() || !grid.holds(root->bitmap_cluster)) return;
    // Its own bit, and that of the root, are set in a bitmap that is one.
    const auto bit = [&](Cluster cluster) {
        const auto at = grid.offset(root->bitmap_cluster) + (cluster - 2) / 8;
        return s_.source.read_vector({at, 1}).front() >> (cluster - 2) % 8 & 1;
    };
    if (!bit(root->bitmap_cluster) || !bit(c.former.root.front())) return;
    // Formatters align; where the volume began, its FAT's own place tells but for that.
    const auto fat = *head;
    const auto start = fat % mebibyte ? fat - fat % mebibyte : fat - std::min(fat, mebibyte);
    c.state = VolumeState::present;
    c.former.offset = start;
    g = make_geometry(g.cluster_size, grid.data_offset - start, g.clusters(), c.former.root.front());
    g.fat_offset = fat - start;
    g.boot.FatLength = static_cast<std::uint32_t>((grid.data_offset - fat) / 512);
    c.votes.push_back(fmt::format("Its FAT begins at offset {}, and its bitmap is left.", grouped(fat)));
}

void Settler::complete(Candidate& c) {
    const auto grid = c.former.grid();
    if (c.former.root.empty()) {
        for (const auto& root : roots_) {
            if (root.offset < grid.data_offset || c.former.end_date) continue;
            const auto cluster = grid.cluster_at(root.offset);
            if (grid.holds(cluster) && c.former.root.empty()) c.former.root = {cluster};
        }
    }
    see_whether_present(c);
    if (c.state == VolumeState::former)
        c.former.fats = clusters::tables_before(
            s_.source, tables_, grid, c.former.offset < grid.data_offset ? c.former.offset : 0, s_.taken);
    c.votes.push_back(fmt::format(
        "Of what its folders name and could be looked at, {} are where they should be and {} are not.",
        grouped(c.evidence.agrees()), grouped(c.evidence.contradicts())));
    for (const auto& fat : c.former.fats)
        c.votes.push_back(fmt::format("A FAT of its own began at offset {}; {} bytes of it are left.",
                                      grouped(fat.place), grouped(fat.left.bytes())));
}

void Settler::take(const Candidate& c) {
    const auto grid = c.former.grid();
    const ByteRange data{grid.data_offset, std::uint64_t{grid.count} * grid.cluster_size};
    const auto its = [&](const SetTrace& s) { return data.contains(s.offset) && is_its_own(c, s); };
    for (const auto& s : sets_) {
        if (its(s)) starts_.erase(s.offset);
    }
    std::erase_if(sets_, its);
    std::erase_if(roots_, [&](const RootTrace& r) { return data.contains(r.offset); });
}

/// Sets that bear out no grid: their names, sizes and dates. What a present volume may have deleted itself is
/// none of them.
std::optional<Recognition> Settler::without_geometry() const {
    auto sets = sets_;
    std::erase_if(sets, [&](const SetTrace& set) {
        return std::any_of(s_.present.begin(), s_.present.end(), [&](const PresentLife& life) {
            const auto& v = life.volume;
            return v.family == "exFAT" && ByteRange{v.offset, v.size}.contains(set.offset) &&
                   made_at(s_.source, set.offset) >= life.oldest;
        });
    });
    if (sets.size() < fewest_sets) return std::nullopt;
    Recognition r;
    auto& v = r.volume;
    v = s_.somewhere("exFAT", "entry sets of which nothing tells the geometry");
    v.geometry = pack_loose(sets);
    v.votes = fmt::format(
        "{} entry sets are left that fit no geometry: names come back, contents do not, unless you know "
        "where its "
        "clusters began and tell it with --volume-at.",
        grouped(sets.size()));
    return r;
}

std::optional<Candidate> Settler::told(const VolumeHint& told) {
    auto heap = told.data_offset;
    if (!heap) {
        for (const auto& vote : votes(*told.cluster_size)) {
            if (vote.unit_size == *told.cluster_size && vote.start >= told.offset && !heap) heap = vote.start;
        }
    }
    if (!heap) return std::nullopt;
    auto former = grid_at(*heap, *told.cluster_size, 0);
    if (!former) return std::nullopt;
    Candidate c;
    c.former = std::move(*former);
    c.found_by = "told";
    weigh(c);
    complete(c);
    c.state = VolumeState::former;
    return c;
}

Recognition Settler::recognition(const Candidate& c) const {
    Recognition r;
    auto& v = r.volume;
    v.family = v.file_system = "exFAT";
    v.offset = c.former.offset;
    v.size = c.former.geometry.size();
    v.cluster_size = c.former.geometry.cluster_size;
    v.grid_start = c.former.grid().data_offset;
    v.state = c.state;
    settling::describe(v, c);
    v.geometry = pack_former(c.former);
    if (c.state == VolumeState::present) {
        const auto& g = c.former.geometry;
        v.label = RootFolder(s_.source, g.grid(v.offset), fat_of(s_.source, v.offset, g),
                             g.boot.FirstClusterOfRootDirectory.value())
                      .label();
    }
    return r;
}

std::vector<Recognition> settle(const Settling& settling, const Progress& progress) {
    return Settler(settling, progress).run();
}

Recognition as_told(const VolumeHint& told, const Settling& settling) {
    settling::want_cluster_size(told);
    Settler settler(settling, Progress());
    const auto found = settler.told(told);
    if (!found) settling::want_data_offset(told);
    return settler.recognition(*found);
}

}  // namespace undershelf::exfat
