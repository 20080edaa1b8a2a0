#pragma once
// Where everything is on an NTFS volume, by its boot sector.

#include <optional>

#include "ntfs/structures.hpp"
#include "source/source.hpp"

namespace undershelf::ntfs {

struct Geometry {
    BootSector boot;
    std::uint32_t sector_size = 512;
    std::uint32_t cluster_size = 4096;
    std::uint32_t record_size = 1024;
    std::uint32_t index_size = 4096;
    std::uint64_t clusters = 0;
    /// Clusters that the source has from the volume's start on, where those after its end may be its own as
    /// well: it may have been larger when its lost files were written. 0: none are.
    std::uint64_t source_clusters = 0;

    /// Bytes the volume occupies: the sectors it counts, and one more for the copy of the boot sector.
    std::uint64_t size() const { return (boot.sectors_per_volume.value() + 1) * sector_size; }
};

/// Understands the boot sector at `at`; nothing when it is none or impossible.
std::optional<Geometry> read_geometry(const Source& source, std::uint64_t at);
/// A file record with its fixups undone; nothing when no record is there, or it is torn.
std::optional<ByteVector> record_at(const Source& source, std::uint64_t at, const Geometry& geometry);

}  // namespace undershelf::ntfs
