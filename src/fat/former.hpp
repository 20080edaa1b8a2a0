#pragma once
// FAT volumes that were formatted over: what settling them found out, and how they are read by that. The
// usual reader gets a table made of what is left of their FATs, and the places of their folders from the
// traces.

#include "clusters/old_fat.hpp"
#include "fat/geometry.hpp"
#include "volume/file_system.hpp"

namespace undershelf::fat {

struct FormerVolume {
    std::uint64_t offset = 0;              ///< of the volume in the source, as far as it can be told
    Geometry geometry;                     ///< without its FATs
    std::vector<clusters::OldFat> fats;    ///< two at most
    std::vector<ByteRange> root;           ///< what is left of the root folder, in the source
    std::optional<std::int64_t> end_date;  ///< ticks; folders made since are none of its own

    clusters::Grid grid() const { return geometry.grid(offset); }
};

/// As Volume::geometry keeps it.
std::string pack_former(const FormerVolume& former);
/// Nothing where that is none.
std::optional<FormerVolume> unpack_former(const Volume& volume);

/// A folder cluster that begins with '.' and '..'.
struct FolderHead {
    std::uint64_t place = 0;  ///< in the source
    Cluster own = 0, parent = 0;
};
/// When the folder was made, by its '.' entry, ticks; 0 for unknown.
std::int64_t made_at(const Source& source, const FolderHead& head, const ReadOptions& options);

/// Where clusters are of folders that a present volume does not tell of, and that are not older than all it
/// names as far as their dates tell.
std::vector<std::uint64_t> lost_folders(const Source& source, const PresentLife& life,
                                        const TraceStore& traces, const ReadOptions& options);

/// Opens a former volume: its folders are where traces on its grid say.
std::unique_ptr<VolumeReader> open_former(const Source& source, const Volume& volume,
                                          const TraceStore& traces, const ReadOptions& options);

}  // namespace undershelf::fat
