#include "exfat/former.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "base/error.hpp"
#include "base/number_lines.hpp"
#include "exfat/entry_set.hpp"
#include "exfat/loose.hpp"
#include "exfat/reader.hpp"
#include "exfat/traces.hpp"

namespace undershelf::exfat {

namespace {

constexpr std::uint32_t sector = 512, largest_cluster = 32 << 20;
constexpr std::uint64_t longest_set = 19 * 32;  ///< bytes

/// The clusters of a grid that sets were found in, ascending, of which the first set is one that counts, each
/// with the place of that.
template <typename Counts>
std::vector<std::pair<Cluster, std::uint64_t>> clusters_with_sets(const clusters::Grid& grid,
                                                                  const TraceStore& traces,
                                                                  const Counts& counts) {
    std::vector<std::pair<Cluster, std::uint64_t>> out;
    Cluster last = 0;
    traces.visit(set_trace, {grid.data_offset, std::uint64_t{grid.count} * grid.cluster_size},
                 [&](const Trace& t) {
                     const auto cluster = grid.cluster_at(t.offset);
                     if (cluster != last && counts(t)) out.emplace_back(cluster, t.offset);
                     last = cluster;
                     return true;
                 });
    return out;
}

/// Does a cluster begin as a folder's may, with a slot of a set or of the root?
bool begins_with_slot(Bytes head) {
    constexpr std::uint8_t types[] = {type_file | in_use_bit, type_stream | in_use_bit,
                                      type_name | in_use_bit, type_bitmap,
                                      type_up_case,           type_label};
    return std::find(std::begin(types), std::end(types), head[0] | in_use_bit) != std::end(types);
}

/// A set whose first slots were written over may be before the first whole one, at `first`.
std::uint64_t with_headless(const Source& source, std::uint64_t start, std::uint64_t first) {
    constexpr std::uint64_t slot = 32;
    const auto from = std::max(start, first - std::min(first, longest_set));
    const auto before = source.read_vector({from, first - from});
    while (first >= from + slot) {
        const auto type = before[static_cast<std::size_t>(first - slot - from)] & ~in_use_bit;
        if (type != type_stream && type != type_name) break;
        first -= slot;
    }
    return first;
}

/// Where clusters of folders are, ascending, and what is left of those that files of today begin in.
clusters::FormerFolders folders_of(const Source& source, const FormerVolume& former,
                                   const TraceStore& traces) {
    const auto grid = former.grid();
    clusters::FormerFolders out;
    for (const auto& [cluster, first] : clusters_with_sets(grid, traces, [&](const Trace& t) {
             if (!former.end_date) return true;
             const auto made = made_at(source, t.offset);
             return made != 0 && made < *former.end_date;
         })) {
        const auto start = grid.offset(cluster);
        if (first == start || begins_with_slot(source.read_vector({start, 1}))) {
            out.folders.push_back(cluster);
        } else {
            const auto from = with_headless(source, start, first);
            out.slack.push_back({from, start + grid.cluster_size - from});
        }
    }
    return out;
}

}  // namespace

std::int64_t made_at(const Source& source, std::uint64_t place) {
    const auto set = sound_set(source.read_vector({place, longest_set}));
    return set ? birth_of(*set) : 0;
}

Geometry make_geometry(std::uint32_t cluster_size, std::uint64_t heap_offset, std::uint32_t clusters,
                       Cluster root) {
    Geometry g{};
    g.sector_size = sector;
    g.cluster_size = cluster_size;
    g.heap_offset = heap_offset;
    g.boot.ClusterCount = clusters;
    g.boot.FirstClusterOfRootDirectory = root;
    g.boot.VolumeLength = (heap_offset + std::uint64_t{clusters} * cluster_size) / sector;
    return g;
}

std::string pack_former(const FormerVolume& former) {
    const auto& g = former.geometry;
    NumberLines out;
    out.add("cluster", {g.cluster_size});
    out.add("heap", {g.heap_offset, g.clusters()});
    out.add("root_cluster", {g.boot.FirstClusterOfRootDirectory.value()});
    out.add("fat", {g.fat_offset, g.boot.FatLength.value()});
    for (const auto& fat : former.fats) {
        out.add("old_fat", {fat.place});
        for (const auto& r : fat.left.ranges()) out.add("left", {fat.place, r.offset, r.length});
    }
    for (const auto c : former.root) out.add("root", {c});
    if (former.end_date) out.add("end_date", {static_cast<std::uint64_t>(*former.end_date)});
    return out.text();
}

std::optional<FormerVolume> unpack_former(const Volume& volume) {
    const NumberLines lines(volume.geometry);
    const auto heap = lines.all("heap", 2), fat = lines.all("fat", 2);
    const auto cluster = lines.one("cluster").value_or(0), root = lines.one("root_cluster").value_or(0);
    if (heap.empty() || fat.empty() || cluster < sector || cluster > largest_cluster ||
        !is_power_of_two(cluster) || heap[0][1] == 0 || heap[0][1] > 0xFFFFFFF5 || root > UINT32_MAX ||
        fat[0][1] > UINT32_MAX)
        return std::nullopt;
    FormerVolume out;
    out.offset = volume.offset;
    out.geometry = make_geometry(static_cast<std::uint32_t>(cluster), heap[0][0],
                                 static_cast<std::uint32_t>(heap[0][1]), static_cast<Cluster>(root));
    out.geometry.fat_offset = fat[0][0];
    out.geometry.boot.FatLength = static_cast<std::uint32_t>(fat[0][1]);
    for (const auto& place : lines.all("old_fat", 1)) {
        std::vector<ByteRange> left;
        for (const auto& r : lines.all("left", 3)) {
            if (r[0] == place[0]) left.push_back({r[1], r[2]});
        }
        out.fats.push_back({place[0], 32, RangeSet(std::move(left))});
    }
    for (const auto& c : lines.all("root", 1)) {
        if (out.geometry.holds(c[0])) out.root.push_back(static_cast<Cluster>(c[0]));
    }
    if (const auto date = lines.one("end_date")) out.end_date = static_cast<std::int64_t>(*date);
    return out;
}

std::vector<std::uint64_t> lost_folders(const Source& source, const PresentLife& life,
                                        const TraceStore& traces) {
    const auto grid = clusters::grid_of(life.volume);
    std::vector<std::uint64_t> out;
    for (const auto& [cluster, first] : clusters_with_sets(grid, traces, [&](const Trace& t) {
             const auto made = made_at(source, t.offset);
             return made == 0 || made >= life.oldest;
         }))
        out.push_back(grid.offset(cluster));
    return out;
}

std::unique_ptr<VolumeReader> open_without_head(const Source& source, const Volume& volume,
                                                const TraceStore& traces) {
    if (auto loose = unpack_loose(NumberLines(volume.geometry)); !loose.empty())
        return open_loose(source, std::move(loose));
    const auto former = unpack_former(volume);
    if (!former)
        throw Error(Trouble::input, fmt::format("What the shelf says of the exFAT volume at offset {} cannot "
                                                "be understood; scan the source again.",
                                                volume.offset));
    if (volume.state == VolumeState::present)
        return std::make_unique<Reader>(source, volume, former->geometry);
    auto folders = folders_of(source, *former, traces);
    for (const auto c : former->root) clusters::append_cluster(folders.root, c);
    return std::make_unique<Reader>(source, volume,
                                    Allocation(source, volume.offset, former->geometry, former->fats),
                                    std::move(folders));
}

}  // namespace undershelf::exfat
