#include "exfat/geometry.hpp"

#include <algorithm>
#include <boost/endian/conversion.hpp>
#include <cstring>

#include "exfat/root_folder.hpp"

namespace undershelf::exfat {

/// Section 3.1: what a boot sector must fulfil by itself.
std::optional<Geometry> read_geometry(const Source& source, std::uint64_t at) {
    const auto boot = source.read_structure<BootSector>(at);
    if (!boot || std::memcmp(boot->FileSystemName, "EXFAT   ", 8) != 0 || !all_zero(boot->MustBeZero))
        return std::nullopt;
    if (boot->BytesPerSectorShift < 9 || boot->BytesPerSectorShift > 12 ||
        boot->SectorsPerClusterShift > 25 - boot->BytesPerSectorShift)
        return std::nullopt;
    if (boot->NumberOfFats < 1 || boot->NumberOfFats > 2) return std::nullopt;
    Geometry g{*boot, 1u << boot->BytesPerSectorShift,
               1u << (boot->BytesPerSectorShift + boot->SectorsPerClusterShift), 0, 0};
    g.fat_offset = std::uint64_t{boot->FatOffset.value()} * g.sector_size;
    g.heap_offset = std::uint64_t{boot->ClusterHeapOffset.value()} * g.sector_size;
    const auto length = boot->VolumeLength.value();
    const auto sectors = std::uint64_t{boot->ClusterCount.value()} << boot->SectorsPerClusterShift;
    if (length > (1ull << 52) || boot->ClusterHeapOffset.value() + sectors > length) return std::nullopt;
    if (boot->FatOffset.value() < 2 * boot_region_sectors ||
        boot->FatOffset.value() + std::uint64_t{boot->FatLength.value()} > boot->ClusterHeapOffset.value())
        return std::nullopt;
    // Section 3.1.9: at most 2^32 - 11 clusters, so that numbers and marks stay apart.
    if (boot->ClusterCount.value() > 0xFFFFFFF5 || !g.holds(boot->FirstClusterOfRootDirectory.value()))
        return std::nullopt;
    return g;
}

/// Section 3.4: the twelfth sector repeats a checksum over the first eleven.
bool region_verifies(const Source& source, std::uint64_t at, const Geometry& g) {
    ByteVector region(std::size_t{boot_region_sectors} * g.sector_size);
    if (!source.read(at, region).empty()) return false;
    std::uint32_t sum = 0;
    for (std::size_t i = 0; i < std::size_t{boot_region_sectors - 1} * g.sector_size; ++i) {
        if (i == 106 || i == 107 || i == 112) continue;  // VolumeFlags and PercentInUse change while mounted
        sum = (sum << 31 | sum >> 1) + region[i];
    }
    std::uint32_t stored;
    std::memcpy(&stored, region.data() + std::size_t{boot_region_sectors - 1} * g.sector_size, 4);
    return boost::endian::little_to_native(stored) == sum;
}

clusters::TableEntries fat_of(const Source& source, std::uint64_t volume_offset, const Geometry& g) {
    return {
        source, {volume_offset + g.fat_offset, std::uint64_t{g.boot.FatLength.value()} * g.sector_size}, 32};
}

Chain follow_fat(const clusters::Grid& grid, const clusters::TableEntries& fat, Cluster start,
                 const clusters::ChainLimits& limits, const ClusterSet& taken) {
    // 0xFFFFFFF7 marks a bad cluster, 0xFFFFFFFF the end; what lies between is no cluster.
    constexpr std::uint32_t end_mark = 0xFFFFFFFF;
    return clusters::follow_chain(grid, start, limits, taken, end_mark, [&](Cluster c) { return fat.at(c); });
}

namespace {
/// Clusters whose content or whose entry in the FAT the source has.
std::uint64_t known_of(const Source& source, std::uint64_t volume_offset, const Geometry& g) {
    const std::uint64_t within = g.grid(volume_offset).within(source.size());
    return std::min<std::uint64_t>(g.clusters(),
                                   std::max(within, fat_of(source, volume_offset, g).on_source()));
}
}  // namespace

Allocation::Allocation(const Source& source, std::uint64_t volume_offset, const Geometry& g)
    : UseBooks(g.grid(volume_offset), known_of(source, volume_offset, g)),
      geometry_(g),
      fat_(fat_of(source, volume_offset, g)) {
    load_bitmap(source);
}

namespace {
/// The better part of two copies is all that is asked of them.
clusters::TableEntries what_is_left(const Source& source, const std::vector<clusters::OldFat>& left) {
    if (left.empty()) return {source, {}, 32};
    const auto& fat = *std::max_element(left.begin(), left.end(), [](const auto& a, const auto& b) {
        return a.left.bytes() < b.left.bytes();
    });
    return {source, {fat.place, fat.end() - fat.place}, 32, fat.left};
}
}  // namespace

Allocation::Allocation(const Source& source, std::uint64_t volume_offset, const Geometry& g,
                       const std::vector<clusters::OldFat>& left)
    : UseBooks(g.grid(volume_offset), g.grid(volume_offset).within(source.size()),
               clusters::use_by(source, g.grid(volume_offset), left)),
      geometry_(g),
      fat_(what_is_left(source, left)) {}

void Allocation::load_bitmap(const Source& source) {
    const RootFolder root(source, grid_, fat_, geometry_.boot.FirstClusterOfRootDirectory.value());
    root.visit([&](Bytes slot) {
        if (slot[0] != type_bitmap) return true;
        const auto entry = *load<BitmapEntry>(slot);
        if (entry.BitmapFlags & 1) return true;  // of the second FAT
        const auto bytes = (std::uint64_t{geometry_.clusters()} + 7) / 8;
        if (entry.DataLength.value() < bytes) return true;
        // Of what lies after the source's end nothing is known, nor need be.
        const auto wanted = std::min(bytes, (known_ + 7) / 8);
        std::uint64_t done = 0;
        for (auto range : grid_.ranges(follow(entry.FirstCluster.value(), grid_.clusters_for(wanted)).runs)) {
            range.length = std::min(range.length, wanted - done);
            load_bitmap_run(source, range, done * 8);
            bitmap_ranges_.push_back(range);
            done += range.length;
        }
        has_bitmap_ = done == wanted;
        return false;
    });
}

void Allocation::load_bitmap_run(const Source& source, const ByteRange& range, std::uint64_t first_bit) {
    constexpr std::uint64_t at_a_time = 1 << 20;
    for (std::uint64_t done = 0; done < range.length; done += at_a_time) {
        const auto bytes =
            source.read_vector({range.offset + done, std::min(at_a_time, range.length - done)});
        for (std::size_t i = 0; i < bytes.size(); ++i) {
            for (unsigned bit = 0; bytes[i] >> bit; ++bit) {
                if (bytes[i] >> bit & 1) used_.add(2 + first_bit + (done + i) * 8 + bit);
            }
        }
    }
}

}  // namespace undershelf::exfat
