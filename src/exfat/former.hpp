#pragma once
// exFAT volumes without a boot region: what settling them found out, and how they are read by that. A volume
// over which nothing was formatted has its FAT, bitmap and root still and is read by them; of one that was
// formatted over, what is left of the FAT, and the places of its folders from the traces.

#include "clusters/old_fat.hpp"
#include "exfat/geometry.hpp"
#include "volume/file_system.hpp"

namespace undershelf::exfat {

struct FormerVolume {
    std::uint64_t offset = 0;  ///< of the volume in the source, as far as it can be told
    Geometry geometry;
    std::vector<clusters::OldFat> fats;    ///< two at most
    std::vector<Cluster> root;             ///< clusters of the root folder that are left
    std::optional<std::int64_t> end_date;  ///< ticks; folders begun since are none of its own

    clusters::Grid grid() const { return geometry.grid(offset); }
};

/// A geometry by the places in the source that matter.
Geometry make_geometry(std::uint32_t cluster_size, std::uint64_t heap_offset, std::uint32_t clusters,
                       Cluster root);
/// As Volume::geometry keeps it.
std::string pack_former(const FormerVolume& former);
/// Nothing where that is none.
std::optional<FormerVolume> unpack_former(const Volume& volume);

/// When the set at a place says that its file was created, ticks; 0 where it does not say so.
std::int64_t made_at(const Source& source, std::uint64_t place);

/// Where clusters are of folders that a present volume does not tell of, and that are not older than all it
/// names as far as their dates tell.
std::vector<std::uint64_t> lost_folders(const Source& source, const PresentLife& life,
                                        const TraceStore& traces);

std::unique_ptr<VolumeReader> open_without_head(const Source& source, const Volume& volume,
                                                const TraceStore& traces);

}  // namespace undershelf::exfat
