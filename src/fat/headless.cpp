#include "fat/headless.hpp"

#include <algorithm>

#include "base/units.hpp"
#include "fat/directory.hpp"

namespace undershelf::fat {

namespace {

constexpr std::uint64_t sector = 512;
constexpr std::uint32_t largest_cluster = 64 << 10;
/// Sizes of the root folder of FAT12 and FAT16, in slots, the most usual first.
constexpr std::uint32_t root_slots[] = {512, 224, 112, 256, 64, 240, 1024, 192, 128};
/// Entries of the root folder that are held against a geometry.
constexpr std::size_t most_held = 64;
/// So many sectors before the first FAT a boot sector is looked for.
constexpr std::uint64_t most_reserved = 64;

struct Score {
    std::size_t held = 0, looked_at = 0;
    double share() const {
        return looked_at ? static_cast<double>(held) / static_cast<double>(looked_at) : 0;
    }
};

/// Holds what the root folder names against the geometry: folders begin with themselves, and chains of files
/// are as long as the files.
Score hold_against(const Source& source, std::uint64_t offset, const Geometry& g) {
    const Table table(source, offset, g, Table::Usage::not_asked);
    std::vector<ByteRange> root{{offset + g.root_offset, g.root_size}};
    const ClusterSet nobody;
    if (g.width == Width::fat32)
        root = table.grid().ranges(table.follow(g.root_cluster, 0, {64, 64}, nobody).runs);
    Score score;
    if (root.empty()) return score;
    walk_folder(FolderBytes(source, root), [&](ShortEntry&& slots) {
        const auto& e = slots.entry;
        const auto start = start_cluster(e, g.width);
        if (slots.erased || slots.after_end || (e.DIR_Attr & ATTR_VOLUME_ID)) return true;
        if (!is_plausible(e, false)) {
            ++score.looked_at;
        } else if (e.DIR_Attr & ATTR_DIRECTORY) {
            ++score.looked_at;
            if (!g.holds(start)) return true;
            const auto head = source.read_vector({offset + g.cluster_offset(start), 2 * slot_size});
            score.held += begins_with_dots(head) && start_cluster(*load<DirEntry>(head), g.width) == start;
        } else if (const std::uint64_t size = e.DIR_FileSize.value(); size > 0) {
            ++score.looked_at;
            const auto wanted = (size + g.cluster_size - 1) / g.cluster_size;
            const auto chain = table.follow(start, wanted, {wanted + 1, wanted + 1}, nobody);
            score.held += chain.end == ChainEnd::end_mark && chain.clusters() == wanted;
        }
        return score.looked_at < most_held;
    });
    return score;
}

/// What the two FATs say by themselves; nothing for a width that does not fit.
std::optional<Geometry> from_tables(std::uint64_t offset, std::uint64_t first, std::uint64_t size,
                                    Width width, std::uint64_t root_size, std::uint32_t cluster_size,
                                    std::uint64_t source_size) {
    Geometry g;
    g.width = width;
    g.cluster_size = cluster_size;
    g.fat_offset = first - offset;
    g.fat_size = size;
    g.root_offset = g.fat_offset + 2 * size;
    g.root_size = root_size;
    g.root_cluster = width == Width::fat32 ? 2 : 0;
    g.data_offset = g.root_offset + root_size;
    const auto entries = size * 8 / static_cast<unsigned>(width);
    if (entries <= 2 || offset + g.data_offset >= source_size) return std::nullopt;
    const auto there = (source_size - offset - g.data_offset) / cluster_size;
    const auto most = width == Width::fat12 ? 4084u : width == Width::fat16 ? 65524u : 0x0FFFFFF5u;
    const auto clusters = std::min({entries - 2, there, std::uint64_t{most}});
    // The number of clusters decides the width (specification, section 3.5).
    if (clusters == 0 || (width == Width::fat16 && clusters < 4085)) return std::nullopt;
    g.cluster_count = static_cast<std::uint32_t>(clusters);
    g.total_size = g.data_offset + clusters * cluster_size;
    return g;
}

bool root_begins_well(const Source& source, std::uint64_t at) {
    const auto slot = source.read_vector({at, slot_size});
    const auto first = *load<DirEntry>(slot);
    return (first.DIR_Attr & ATTR_LONG_NAME_MASK) == ATTR_LONG_NAME || (first.DIR_Attr & ATTR_VOLUME_ID) ||
           is_plausible(first, slot[0] == slot_erased);
}

}  // namespace

bool may_be_table(Bytes s) {
    const bool media = s[0] == 0xF0 || s[0] >= 0xF8;
    const bool erased_flash =
        std::all_of(s.begin(), s.begin() + 32, [](std::uint8_t b) { return b == 0xFF; });
    return media && s[1] == 0xFF && s[2] == 0xFF && !erased_flash;
}

/// FAT32 has an information sector after the boot sector, which tells; else the usual number of reserved
/// sectors does.
std::uint64_t start_before(const Source& source, std::uint64_t first, Width width) {
    // The copy of the boot sector has a copy of it after itself, so the farther one counts.
    for (auto n = width == Width::fat32 ? std::min(most_reserved, first / sector) : 0; n >= 2; --n) {
        const auto bytes = source.read_vector({first - (n - 1) * sector, sector});
        if (std::equal(bytes.begin(), bytes.begin() + 4, "RRaA") &&
            std::equal(bytes.begin() + 484, bytes.begin() + 488, "rrAa"))
            return first - n * sector;
    }
    if (width == Width::fat32) return first - std::min(first, 32 * sector);
    for (std::uint64_t n = 1; n <= most_reserved && n * sector <= first; ++n) {
        if ((first - n * sector) % mebibyte == 0) return first - n * sector;
    }
    return first - std::min(first, sector);
}

std::optional<Headless> solve_tables(const Source& source, std::uint64_t first, std::uint64_t second) {
    std::optional<Headless> best;
    std::size_t most = 0;
    const auto size = second - first;
    if (!root_begins_well(source, first + 2 * size)) return std::nullopt;
    const auto media = source.read_vector({first, 1}).front();
    for (const auto width : {Width::fat32, Width::fat16, Width::fat12}) {
        const auto offset = start_before(source, first, width);
        for (const auto slots : root_slots) {
            const std::uint64_t root_size = width == Width::fat32 ? 0 : slots * slot_size;
            for (std::uint32_t cluster = sector; cluster <= largest_cluster; cluster *= 2) {
                auto g = from_tables(offset, first, size, width, root_size, cluster, source.size());
                if (!g) continue;
                g->media = media;
                const auto score = hold_against(source, offset, *g);
                if (score.held <= most || score.share() < 0.8) continue;
                most = score.held;
                // A head that is there says more than one that was worked out.
                best = Headless{offset, *g, 0.9 * score.share()};
            }
            if (width == Width::fat32) break;
        }
    }
    return best;
}

NumberLines pack_geometry(const Geometry& g) {
    NumberLines out;
    out.add("width", {static_cast<std::uint64_t>(g.width)});
    out.add("sector", {g.bytes_per_sector});
    out.add("cluster", {g.cluster_size});
    out.add("fat", {g.fat_offset, g.fat_size, g.fat_count});
    out.add("root_place", {g.root_offset, g.root_size});
    out.add("root_cluster", {g.root_cluster});
    out.add("data", {g.data_offset, g.cluster_count});
    out.add("size", {g.total_size});
    return out;
}

std::optional<Geometry> unpack_geometry(const NumberLines& lines) {
    const auto numbers = [&](const char* word, std::size_t count) {
        const auto all = lines.all(word, count);
        return all.empty() ? NumberLines::Numbers(count) : all.front();
    };
    Geometry g;
    const auto width = numbers("width", 1)[0], cluster = numbers("cluster", 1)[0];
    const auto fat = numbers("fat", 3), root = numbers("root_place", 2), data = numbers("data", 2);
    const auto root_cluster = numbers("root_cluster", 1)[0];
    const bool sound = (width == 12 || width == 16 || width == 32) && cluster >= sector &&
                       cluster <= 4 * largest_cluster && is_power_of_two(cluster) && data[1] > 0 &&
                       data[1] <= 0x0FFFFFF5 && root_cluster <= 0x0FFFFFFF && fat[2] <= 2;
    if (!sound) return std::nullopt;
    g.width = static_cast<Width>(width);
    g.bytes_per_sector = static_cast<std::uint32_t>(numbers("sector", 1)[0]);
    g.cluster_size = static_cast<std::uint32_t>(cluster);
    g.fat_offset = fat[0];
    g.fat_size = fat[1];
    g.fat_count = std::max(1u, static_cast<std::uint32_t>(fat[2]));
    g.root_offset = root[0];
    g.root_size = root[1];
    g.root_cluster = static_cast<Cluster>(root_cluster);
    g.data_offset = data[0];
    g.cluster_count = static_cast<std::uint32_t>(data[1]);
    g.total_size = numbers("size", 1)[0];
    return g;
}

}  // namespace undershelf::fat
