#pragma once
// Where everything is on an exFAT volume, checked against itself.

#include <optional>

#include "exfat/structures.hpp"
#include "source/source.hpp"

namespace undershelf::exfat {

using Cluster = std::uint32_t;

/// Offsets are bytes from the start of the volume.
struct Geometry {
    BootSector boot;
    std::uint32_t sector_size = 512;
    std::uint32_t cluster_size = 4096;
    std::uint64_t fat_offset = 0;
    std::uint64_t heap_offset = 0;

    std::uint32_t clusters() const { return boot.ClusterCount.value(); }
    bool holds(std::uint64_t c) const { return c >= 2 && c - 2 < clusters(); }
    /// Of the first byte of a cluster that the volume holds.
    std::uint64_t cluster_offset(Cluster c) const {
        return heap_offset + std::uint64_t{c - 2} * cluster_size;
    }
    std::uint64_t size() const { return boot.VolumeLength.value() * sector_size; }
};

/// Understands the boot sector at `at` (specification, section 3.1); nothing when it is none or impossible.
std::optional<Geometry> read_geometry(const Source& source, std::uint64_t at);
/// Does the boot region that starts at `at` have the checksum that its twelfth sector repeats (section 3.4)?
bool region_verifies(const Source& source, std::uint64_t at, const Geometry& geometry);

/// Clusters first, first + 1, ..., first + count - 1.
struct Run {
    Cluster first = 0;
    std::uint32_t count = 0;
    bool operator==(const Run&) const = default;
};

/// The file allocation table and the allocation bitmap.
class Allocation {
  public:
    Allocation(const Source& source, std::uint64_t volume_offset, const Geometry& geometry);

    const Geometry& geometry() const { return geometry_; }
    /// By the bitmap; false where it cannot be read.
    bool in_use(Cluster c) const { return geometry_.holds(c) && used_[c - 2]; }
    std::uint64_t used_clusters() const { return used_count_; }
    bool has_bitmap() const { return has_bitmap_; }

    struct Chain {
        std::vector<Run> runs;
        std::uint64_t clusters = 0;
        bool ended = false;  ///< by an end mark, as it should
    };
    /// Follows the FAT from `start`, at most `most` clusters; loops end at their first repetition.
    Chain follow(Cluster start, std::uint64_t most) const;

  private:
    std::optional<std::uint32_t> next_of(Cluster c) const;
    void load_bitmap();

    const Source& source_;
    std::uint64_t volume_offset_;
    Geometry geometry_;
    std::vector<bool> used_;
    std::uint64_t used_count_ = 0;
    bool has_bitmap_ = false;
};

void append_cluster(std::vector<Run>& runs, Cluster cluster);

}  // namespace undershelf::exfat
