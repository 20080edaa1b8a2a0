#include "fat/former.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "base/error.hpp"
#include "fat/headless.hpp"
#include "fat/loose.hpp"
#include "fat/reader.hpp"
#include "fat/traces.hpp"

namespace undershelf::fat {

std::string pack_former(const FormerVolume& former) {
    auto out = pack_geometry(former.geometry);
    for (const auto& fat : former.fats) {
        out.add("old_fat", {fat.place});
        for (const auto& r : fat.left.ranges()) out.add("left", {fat.place, r.offset, r.length});
    }
    for (const auto& r : former.root) out.add("root", {r.offset, r.length});
    if (former.end_date) out.add("end_date", {static_cast<std::uint64_t>(*former.end_date)});
    return out.text();
}

std::optional<FormerVolume> unpack_former(const Volume& volume) {
    const NumberLines lines(volume.geometry);
    const auto geometry = unpack_geometry(lines);
    if (!geometry) return std::nullopt;
    FormerVolume out;
    out.offset = volume.offset;
    out.geometry = *geometry;
    for (const auto& place : lines.all("old_fat", 1)) {
        if (out.fats.size() == 2) break;
        std::vector<ByteRange> left;
        for (const auto& r : lines.all("left", 3)) {
            if (r[0] == place[0]) left.push_back({r[1], r[2]});
        }
        out.fats.push_back({place[0], static_cast<unsigned>(geometry->width), RangeSet(std::move(left))});
    }
    for (const auto& r : lines.all("root", 2)) {
        const bool ends_within_numbers = r[0] <= ~r[1];
        if (ends_within_numbers && r[1] <= bound::folder_bytes) out.root.push_back({r[0], r[1]});
    }
    if (const auto date = lines.one("end_date")) out.end_date = static_cast<std::int64_t>(*date);
    return out;
}

namespace {
std::int64_t made_at(const DirEntry& e, const ReadOptions& options) {
    const auto created =
        dos_time(e.DIR_CrtDate.value(), e.DIR_CrtTime.value(), e.DIR_CrtTimeTenth, options.zone_minutes);
    return ticks_of(
        created ? created : dos_time(e.DIR_WrtDate.value(), e.DIR_WrtTime.value(), 0, options.zone_minutes));
}
}  // namespace

std::int64_t made_at(const Source& source, const FolderHead& head, const ReadOptions& options) {
    const auto dot = source.read_structure<DirEntry>(head.place);
    return dot ? made_at(*dot, options) : 0;
}

namespace {

/// The folder clusters that traces speak for on a grid, ascending: of those that know their number the ones
/// that count, and of the others.
template <typename HeadCounts, typename SlotsCount>
std::vector<Cluster> clusters_with_slots(const clusters::Grid& grid, const TraceStore& traces,
                                         const HeadCounts& head_counts, const SlotsCount& slots_count) {
    const ByteRange data{grid.data_offset, std::uint64_t{grid.count} * grid.cluster_size};
    const auto on_grid = [&](std::uint64_t place) {
        return (place - grid.data_offset) % grid.cluster_size == 0;
    };
    std::vector<Cluster> out;
    traces.visit(folder_trace, data, [&](const Trace& t) {
        const FolderHead head{t.offset, static_cast<Cluster>(t.a), static_cast<Cluster>(t.b)};
        if (on_grid(t.offset) && t.a == grid.cluster_at(t.offset) && head_counts(head))
            out.push_back(head.own);
        return true;
    });
    traces.visit(slots_trace, data, [&](const Trace& t) {
        if (on_grid(t.offset) && slots_count(t.offset)) out.push_back(grid.cluster_at(t.offset));
        return true;
    });
    std::sort(out.begin(), out.end());
    return out;
}

/// Where the folder clusters of a former volume are.
std::vector<Cluster> folders_of(const Source& source, const FormerVolume& former, const TraceStore& traces,
                                const ReadOptions& options) {
    return clusters_with_slots(
        former.grid(), traces,
        [&](const FolderHead& head) {
            return !former.end_date || made_at(source, head, options) < *former.end_date;
        },
        [](std::uint64_t) { return true; });
}

}  // namespace

std::vector<std::uint64_t> lost_folders(const Source& source, const PresentLife& life,
                                        const TraceStore& traces, const ReadOptions& options) {
    const auto grid = clusters::grid_of(life.volume);
    const auto is_its_own = [&](std::int64_t made) { return made == 0 || made >= life.oldest; };
    std::vector<std::uint64_t> out;
    for (const auto c : clusters_with_slots(
             grid, traces, [&](const FolderHead& head) { return is_its_own(made_at(source, head, options)); },
             [&](std::uint64_t place) {
                 const auto first = first_entry_in(source.read_vector({place, 512}));
                 return first && is_its_own(made_at(*first, options));
             }))
        out.push_back(grid.offset(c));
    return out;
}

std::unique_ptr<VolumeReader> open_former(const Source& source, const Volume& volume,
                                          const TraceStore& traces, const ReadOptions& options) {
    if (auto loose = unpack_loose(NumberLines(volume.geometry)); !loose.empty())
        return open_loose(source, std::move(loose), options);
    const auto former = unpack_former(volume);
    if (!former)
        throw Error(Trouble::input, fmt::format("What the shelf says of the former {} volume at offset {} "
                                                "cannot be understood; scan the source again.",
                                                volume.file_system, volume.offset));
    const auto grid = former->grid();
    clusters::FormerFolders folders;
    folders.folders = folders_of(source, *former, traces, options);
    const ByteRange clusters{grid.data_offset, std::uint64_t{grid.count} * grid.cluster_size};
    for (const auto& r : former->root) {
        const bool in_grid = overlap(clusters, r) == r && r.length % grid.cluster_size == 0;
        if (in_grid) {
            clusters::append_run(folders.root, {grid.cluster_at(r.offset),
                                                static_cast<std::uint32_t>(r.length / grid.cluster_size)});
        } else {
            folders.root_places.push_back(r);
        }
    }
    return std::make_unique<Reader>(source, volume, options,
                                    Table(source, volume.offset, former->geometry, former->fats),
                                    std::move(folders));
}

}  // namespace undershelf::fat
