#include "fat/settle.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "base/text.hpp"
#include "fat/directory.hpp"
#include "fat/headless.hpp"
#include "fat/loose.hpp"
#include "fat/settler.hpp"
#include "fat/traces.hpp"
#include "settling/grid_vote.hpp"
#include "settling/told.hpp"

namespace undershelf::fat {

namespace {
/// Entries whose contents are held against a grid.
constexpr std::size_t most_held = 256, most_folders_held = 64;
/// Bytes of the largest root folder that FAT12 and FAT16 are given: 1024 slots.
constexpr std::uint64_t most_fixed_root = 32 << 10;
}  // namespace

void Settler::gather() {
    s_.traces.visit_all(folder_trace, [&](const Trace& t) {
        if (!s_.taken.contains(t.offset))
            pool_.push_back({t.offset, static_cast<Cluster>(t.a), static_cast<Cluster>(t.b)});
        return !progress_.stopped();
    });
    s_.traces.visit_all(slots_trace, [&](const Trace& t) {
        if (!s_.taken.contains(t.offset)) slots_.push_back(t.offset);
        return !progress_.stopped();
    });
    tables_ = clusters::tables_of(s_.traces, table_trace, s_.taken);
}

/// A volume whose clusters are known and nothing else: it reaches to the end of the present volume around it,
/// or of the source.
FormerVolume Settler::grid_at(std::uint64_t data_start, std::uint32_t cluster_size) const {
    FormerVolume out;
    const auto* around = s_.present_around(data_start);
    out.offset = around ? around->offset : data_start;
    auto& g = out.geometry;
    g.cluster_size = cluster_size;
    g.data_offset = data_start - out.offset;
    const auto end = around ? std::min(around->offset + around->size, s_.source.size()) : s_.source.size();
    const auto clusters = end > data_start ? (end - data_start) / cluster_size : 0;
    g.cluster_count = static_cast<std::uint32_t>(std::clamp<std::uint64_t>(clusters, 1, 0x0FFFFFF5));
    g.total_size = g.data_offset + std::uint64_t{g.cluster_count} * cluster_size;
    return out;
}

std::vector<FolderHead> Settler::supporters_of(const FormerVolume& former) const {
    const auto grid = former.grid();
    std::vector<FolderHead> out;
    for (const auto& f : pool_) {
        if (grid.holds(f.own) && grid.offset(f.own) == f.place) out.push_back(f);
    }
    return out;
}

std::vector<FolderHead> Settler::take_supporters(const FormerVolume& former) {
    auto out = supporters_of(former);
    const auto grid = former.grid();
    std::erase_if(pool_,
                  [&](const FolderHead& f) { return grid.holds(f.own) && grid.offset(f.own) == f.place; });
    return out;
}

// What bears a grid out.

/// Does this cluster begin with a folder that says it is this one?
bool Settler::begins_with_number(Cluster cluster, const clusters::Grid& grid) const {
    const auto head = s_.source.read_vector({grid.offset(cluster), 2 * slot_size});
    return begins_with_dots(head) && start_cluster(*load<DirEntry>(head), Width::fat32) == cluster;
}

void Settler::hold_entry(const FormerVolume& former, const DirEntry& e, settling::GridEvidence& out) const {
    const auto grid = former.grid();
    const auto start = start_cluster(e, Width::fat32);
    if ((e.DIR_Attr & ATTR_VOLUME_ID) || !is_plausible(e, e.DIR_Name[0] == slot_erased)) return;
    if (!grid.holds(start)) {
        if (start != 0) out.outside();
        return;
    }
    if (s_.taken.contains(grid.offset(start))) return;
    if (e.DIR_Attr & ATTR_DIRECTORY) {
        out.folder(begins_with_number(start, grid));
        return;
    }
    const auto length = std::min<std::uint64_t>(e.DIR_FileSize.value(), signature_bytes);
    if (length == 0) return;
    const CodePage page(s_.options.code_page);
    const auto ext = extension_of(short_name(e, page, e.DIR_Name[0] == slot_erased, 0));
    out.file(s_.source.read_vector({grid.offset(start), length}), ext);
}

settling::GridEvidence Settler::hold_against(const FormerVolume& former,
                                             const std::vector<FolderHead>& folders) const {
    settling::GridEvidence out;
    const auto step = std::max<std::size_t>(1, folders.size() / most_folders_held);
    const auto length = std::min<std::uint64_t>(former.geometry.cluster_size, 16 << 10);
    std::size_t held = 0;
    for (std::size_t i = 0; i < folders.size(); i += step) {
        // The folder above it is one, too.
        const auto above = folders[i].parent;
        if (above && former.grid().holds(above) && !s_.taken.contains(former.grid().offset(above)))
            out.folder(begins_with_number(above, former.grid()));
        const auto slots = s_.source.read_vector({folders[i].place, length});
        for (std::size_t at = 2 * slot_size; at + slot_size <= slots.size() && slots[at] != slot_end;
             at += slot_size) {
            const auto e = *load<DirEntry>(slots, at);
            if ((e.DIR_Attr & ATTR_LONG_NAME_MASK) == ATTR_LONG_NAME) continue;
            hold_entry(former, e, out);
            if (++held >= most_held) return out;
        }
    }
    return out;
}

// What else is left of a volume whose grid is known.

void Settler::complete(Candidate& c) {
    if (c.evidence.looked_at() == 0) c.evidence = hold_against(c.former, c.supporters);
    find_tables(c);
    settle_width(c);
    find_root(c);
    const auto grid = c.former.grid();
    const ByteRange data{grid.data_offset, std::uint64_t{grid.count} * grid.cluster_size};
    const auto others = static_cast<std::size_t>(std::count_if(
        pool_.begin(), pool_.end(), [&](const FolderHead& f) { return data.contains(f.place); }));
    const auto all = c.supporters.size() + others;
    c.support = all ? static_cast<double>(c.supporters.size()) / static_cast<double>(all) : 0;
    c.votes.push_back(fmt::format("{} of {} folders found in its range are where their own numbers say.",
                                  grouped(c.supporters.size()), grouped(all)));
    if (c.evidence.looked_at())
        c.votes.push_back(fmt::format(
            "Of what they name and could be looked at, {} are where they should be and {} are not.",
            grouped(c.evidence.agrees()), grouped(c.evidence.contradicts())));
    for (const auto& fat : c.former.fats)
        c.votes.push_back(fmt::format("A FAT of its own began at offset {}; {} bytes of it are left.",
                                      grouped(fat.place), grouped(fat.left.bytes())));
    if (!c.former.root.empty())
        c.votes.push_back(
            fmt::format("{} bytes of its root folder are left.", grouped(total_length(c.former.root))));
}

/// Tables stood between the volume's start and its clusters, and where nothing else tells its start, they do.
void Settler::find_tables(Candidate& c) const {
    auto& g = c.former.geometry;
    const auto grid = c.former.grid();
    const bool start_is_known = c.former.offset < grid.data_offset;
    c.former.fats =
        clusters::tables_before(s_.source, tables_, grid, start_is_known ? c.former.offset : 0, s_.taken);
    if (c.former.fats.empty()) return;
    const auto width = static_cast<Width>(c.former.fats.front().bits);
    if (c.width_known && width != g.width) {
        c.former.fats.clear();
        return;
    }
    g.width = width;
    if (start_is_known) return;
    // By itself a table may be either copy; the second one ends where the clusters, or the root folder,
    // begin.
    auto first = c.former.fats.front().place;
    const auto size = (grid.end() * c.former.fats.front().bits / 8 + 511) / 512 * 512;
    if (c.former.fats.size() == 1 && grid.data_offset - first < 2 * size) first -= std::min(first, size);
    c.former.offset = start_before(s_.source, first, g.width);
    g.data_offset = grid.data_offset - c.former.offset;
    g.total_size = g.data_offset + std::uint64_t{g.cluster_count} * g.cluster_size;
}

/// Without a FAT the number of clusters tells (specification, section 3.5).
void Settler::settle_width(Candidate& c) const {
    auto& g = c.former.geometry;
    if (!c.former.fats.empty() || c.width_known) return;
    const bool high = std::any_of(c.supporters.begin(), c.supporters.end(),
                                  [](const FolderHead& f) { return f.own >= 65525; });
    g.width = high || g.cluster_count >= 65525 ? Width::fat32
              : g.cluster_count >= 4085        ? Width::fat16
                                               : Width::fat12;
    for (const auto& life : s_.present) {
        const auto& v = life.volume;
        if (v.family == "FAT" && v.grid_start == c.former.grid().data_offset &&
            v.cluster_size == g.cluster_size)
            g.width = width_of(v.file_system);
    }
}

/// How many folders that slots name stood in the root, by their own '..', less those that did not.
std::int64_t Settler::root_score(const ByteRange& range, Width width,
                                 const std::unordered_map<Cluster, Cluster>& parents) const {
    const auto slots = s_.source.read_vector(range);
    std::int64_t score = 0;
    for (std::size_t at = 0; at + slot_size <= slots.size() && slots[at] != slot_end; at += slot_size) {
        const auto e = *load<DirEntry>(slots, at);
        if ((e.DIR_Attr & ATTR_LONG_NAME_MASK) == ATTR_LONG_NAME || !(e.DIR_Attr & ATTR_DIRECTORY)) continue;
        const auto it = parents.find(start_cluster(e, width));
        if (it != parents.end()) score += it->second == 0 ? 1 : -1;
    }
    return score;
}

/// Slots that name folders whose own '..' says that they stood in the root are part of it. FAT32 has its
/// root in clusters, FAT12 and FAT16 right before them.
void Settler::find_root(Candidate& c) const {
    std::unordered_map<Cluster, Cluster> parents;
    for (const auto& f : c.supporters) parents.emplace(f.own, f.parent);
    const auto grid = c.former.grid();
    const auto width = c.former.geometry.width;
    const std::uint64_t unit = grid.cluster_size;
    std::vector<ByteRange> root;
    for (auto it = slots_.begin(); it != slots_.end(); ++it) {
        if (*it < grid.data_offset) continue;
        if ((*it - grid.data_offset) % unit || !grid.holds(grid.cluster_at(*it))) continue;
        if (root_score({*it, unit}, width, parents) > 0) root.push_back({*it, unit});
    }
    if (width != Width::fat32) {
        const auto lowest = grid.data_offset - std::min(most_fixed_root, grid.data_offset - c.former.offset);
        const auto first = std::lower_bound(slots_.begin(), slots_.end(), lowest);
        if (first != slots_.end() && *first < grid.data_offset) {
            const ByteRange range{*first, grid.data_offset - *first};
            if (root_score(range, width, parents) >= 0) root.insert(root.begin(), range);
        }
    }
    c.former.root = std::move(root);
}

Recognition Settler::recognition(const Candidate& c) const {
    Recognition r;
    auto& v = r.volume;
    v.family = "FAT";
    v.file_system = c.former.geometry.file_system();
    v.offset = c.former.offset;
    v.size = c.former.geometry.total_size;
    v.cluster_size = c.former.geometry.cluster_size;
    v.grid_start = c.former.grid().data_offset;
    v.state = VolumeState::former;
    settling::describe(v, c);
    v.support = c.support;
    v.geometry = pack_former(c.former);
    return r;
}

/// Folders that agree on no grid: their names, sizes and dates.
std::optional<Recognition> Settler::without_grid() const {
    const auto folders = that_name_something(s_.source, pool_);
    if (folders.empty()) return std::nullopt;
    Recognition r;
    auto& v = r.volume;
    v = s_.somewhere("FAT", "folders of which nothing tells the geometry");
    v.file_system = "FAT32";  // of all widths the one whose folders may have any number
    v.geometry = pack_loose(folders);
    v.votes = fmt::format(
        "{} folders are left that fit no geometry: names come back, contents do not, unless you know "
        "where its clusters began and tell it with --volume-at.",
        grouped(folders.size()));
    return r;
}

std::vector<Recognition> Settler::run() {
    for (const auto& life : s_.present) try_present_grid(life);
    for (const auto head : s_.heads) try_head(head);
    vote();
    std::vector<Recognition> out;
    for (auto& c : found_) {
        complete(c);
        out.push_back(recognition(c));
    }
    if (out.empty() && !progress_.stopped()) {
        if (auto loose = without_grid()) out.push_back(std::move(*loose));
    }
    return out;
}

std::optional<Candidate> Settler::told(const VolumeHint& told) {
    Candidate c;
    auto start = told.data_offset;
    if (!start) {
        std::vector<settling::Sighting> in_range;
        for (const auto& f : pool_) {
            if (f.own >= 2 && f.place >= told.offset) in_range.push_back({f.place, f.own - 2});
        }
        for (const auto& vote : settling::vote_for_grids(in_range, *told.cluster_size, 64)) {
            if (vote.unit_size == *told.cluster_size && vote.start >= told.offset && !start)
                start = vote.start;
        }
    }
    if (!start) return std::nullopt;
    c.former = grid_at(*start, *told.cluster_size);
    c.former.offset = std::min(told.offset, *start);
    c.former.geometry.data_offset = *start - c.former.offset;
    c.former.geometry.width = width_of(told.system);
    c.width_known = true;
    c.found_by = "told";
    c.supporters = take_supporters(c.former);
    complete(c);
    return c;
}

std::vector<Recognition> settle(const Settling& settling, const Progress& progress) {
    return Settler(settling, progress).run();
}

Recognition as_told(const VolumeHint& told, const Settling& settling) {
    Settler settler(settling, Progress());
    settling::want_cluster_size(told);
    const auto found = settler.told(told);
    if (!found) settling::want_data_offset(told);
    return settler.recognition(*found);
}

}  // namespace undershelf::fat
