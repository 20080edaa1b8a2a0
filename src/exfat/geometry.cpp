#include "exfat/geometry.hpp"

#include <boost/endian/conversion.hpp>
#include <cstring>
#include <unordered_set>

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
    if (!g.holds(boot->FirstClusterOfRootDirectory.value())) return std::nullopt;
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

void append_cluster(std::vector<Run>& runs, Cluster cluster) {
    if (!runs.empty() && runs.back().first + runs.back().count == cluster) {
        ++runs.back().count;
    } else {
        runs.push_back({cluster, 1});
    }
}

Allocation::Allocation(const Source& source, std::uint64_t volume_offset, const Geometry& geometry)
    : source_(source), volume_offset_(volume_offset), geometry_(geometry), used_(geometry.clusters()) {
    load_bitmap();
}

std::optional<std::uint32_t> Allocation::next_of(Cluster c) const {
    const auto value = source_.read_structure<little_uint32_buf_t>(volume_offset_ + geometry_.fat_offset +
                                                                   std::uint64_t{c} * 4);
    if (!value) return std::nullopt;
    return value->value();
}

Allocation::Chain Allocation::follow(Cluster start, std::uint64_t most) const {
    constexpr std::uint32_t end_mark = 0xFFFFFFFF;
    Chain chain;
    std::unordered_set<Cluster> seen;
    for (Cluster c = start; geometry_.holds(c) && chain.clusters < most;) {
        // Only a step backwards can close a loop, so a chain that ascends needs no memory of its clusters.
        const bool ascends = chain.runs.empty() || c >= chain.runs.back().first + chain.runs.back().count;
        if (!ascends && seen.empty()) {
            for (const auto& r : chain.runs) {
                for (std::uint32_t i = 0; i < r.count; ++i) seen.insert(r.first + i);
            }
        }
        if ((!ascends || !seen.empty()) && !seen.insert(c).second) return chain;
        append_cluster(chain.runs, c);
        ++chain.clusters;
        const auto next = next_of(c);
        if (!next) return chain;
        if (*next == end_mark) {
            chain.ended = true;
            return chain;
        }
        c = *next;
    }
    return chain;
}

void Allocation::load_bitmap() {
    const auto root = source_.read_vector(
        {volume_offset_ + geometry_.cluster_offset(geometry_.boot.FirstClusterOfRootDirectory.value()),
         geometry_.cluster_size});
    for (std::size_t at = 0; at + 32 <= root.size() && root[at] != 0; at += 32) {
        if (root[at] != 0x81) continue;
        const auto entry = *load<BitmapEntry>(root, at);
        if (entry.BitmapFlags & 1) continue;  // of the second FAT
        std::uint64_t left = (std::uint64_t{geometry_.clusters()} + 7) / 8, cluster = 0;
        if (entry.DataLength.value() < left) continue;
        for (const auto& run : follow(entry.FirstCluster.value(), left / geometry_.cluster_size + 1).runs) {
            const auto bytes =
                source_.read_vector({volume_offset_ + geometry_.cluster_offset(run.first),
                                     std::min(left, std::uint64_t{run.count} * geometry_.cluster_size)});
            for (const auto byte : bytes) {
                for (int bit = 0; bit < 8 && cluster < used_.size(); ++bit, ++cluster) {
                    used_[cluster] = byte >> bit & 1;
                    used_count_ += byte >> bit & 1;
                }
            }
            left -= bytes.size();
        }
        has_bitmap_ = left == 0;
        return;
    }
}

}  // namespace undershelf::exfat
