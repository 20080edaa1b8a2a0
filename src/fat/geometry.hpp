#pragma once
// Where everything is on a FAT volume, worked out from its boot sector and checked against itself.

#include <optional>
#include <string>
#include <string_view>

#include "base/bytes.hpp"
#include "clusters/grid.hpp"
#include "fat/structures.hpp"

namespace undershelf::fat {

enum class Width : std::uint8_t { fat12 = 12, fat16 = 16, fat32 = 32 };
/// Of `FAT12`, `FAT16` or `FAT32`.
inline Width width_of(std::string_view file_system) {
    return file_system == "FAT12" ? Width::fat12 : file_system == "FAT16" ? Width::fat16 : Width::fat32;
}

using clusters::Cluster;

/// All offsets are bytes from the start of the volume.
struct Geometry {
    Width width = Width::fat32;
    std::uint32_t bytes_per_sector = 512;
    std::uint32_t cluster_size = 512;  ///< bytes
    std::uint64_t fat_offset = 0;      ///< of the first FAT
    std::uint64_t fat_size = 0;        ///< bytes of one FAT
    std::uint32_t fat_count = 2;
    std::uint32_t active_fat = 0;  ///< the one in use when mirroring is off, else 0
    bool mirrored = true;
    std::uint64_t root_offset = 0;    ///< FAT12/16: of the root folder
    std::uint64_t root_size = 0;      ///< FAT12/16: bytes of the root folder
    Cluster root_cluster = 0;         ///< FAT32
    std::uint64_t data_offset = 0;    ///< of cluster 2
    std::uint32_t cluster_count = 0;  ///< clusters are numbered 2 .. cluster_count + 1
    std::uint64_t total_size = 0;     ///< bytes of the volume
    std::uint64_t backup_offset = 0;  ///< of the backup boot sector, 0 for none
    std::uint8_t media = 0xF8;
    bool signature = true;  ///< 0x55 0xAA is at the end of the sector
    std::optional<std::uint32_t> serial;
    std::string boot_label;  ///< BS_VolLab without padding, in the code page; empty for none

    bool holds(std::uint64_t cluster) const { return cluster >= 2 && cluster - 2 < cluster_count; }
    /// Of the first byte of a cluster that the volume holds.
    std::uint64_t cluster_offset(Cluster cluster) const {
        return data_offset + std::uint64_t{cluster - 2} * cluster_size;
    }
    clusters::Grid grid(std::uint64_t volume_offset) const {
        return {volume_offset + data_offset, cluster_size, cluster_count};
    }
    std::string file_system() const { return "FAT" + std::to_string(static_cast<int>(width)); }
};

/// Understands a boot sector, or says in `why`, if given, what makes it none. Checks everything that can be
/// checked from these 512 bytes alone (specification, section 3).
std::optional<Geometry> parse_boot_sector(Bytes sector, std::string* why = nullptr);

}  // namespace undershelf::fat
