#pragma once
// Where everything is on an exFAT volume, checked against itself.

#include <optional>

#include "clusters/chain.hpp"
#include "clusters/use_books.hpp"
#include "exfat/structures.hpp"
#include "source/source.hpp"

namespace undershelf::exfat {

using clusters::Cluster;

/// Offsets are bytes from the start of the volume.
struct Geometry {
    BootSector boot;
    std::uint32_t sector_size = 512;
    std::uint32_t cluster_size = 4096;
    std::uint64_t fat_offset = 0;
    std::uint64_t heap_offset = 0;

    std::uint32_t clusters() const { return boot.ClusterCount.value(); }
    bool holds(std::uint64_t c) const { return c >= 2 && c - 2 < clusters(); }
    clusters::Grid grid(std::uint64_t volume_offset) const {
        return {volume_offset + heap_offset, cluster_size, clusters()};
    }
    std::uint64_t size() const { return boot.VolumeLength.value() * sector_size; }
};

/// Understands the boot sector at `at` (specification, section 3.1); nothing when it is none or impossible.
std::optional<Geometry> read_geometry(const Source& source, std::uint64_t at);
/// Does the boot region that starts at `at` have the checksum that its twelfth sector repeats (section 3.4)?
bool region_verifies(const Source& source, std::uint64_t at, const Geometry& geometry);

using clusters::Chain;
using clusters::ChainEnd;
using clusters::ClusterSet;
using clusters::Run;

/// The FAT of the volume at `volume_offset`.
clusters::TableEntries fat_of(const Source& source, std::uint64_t volume_offset, const Geometry& geometry);
/// Follows the FAT from `start` (section 4.1).
Chain follow_fat(const clusters::Grid& grid, const clusters::TableEntries& fat, Cluster start,
                 const clusters::ChainLimits& limits, const ClusterSet& taken = ClusterSet());

/// The file allocation table, and the allocation bitmap, which says what is in use.
class Allocation : public clusters::UseBooks {
  public:
    Allocation(const Source& source, std::uint64_t volume_offset, const Geometry& geometry);
    /// Of a former volume, with what is left of its FATs, two at most: nothing is in use.
    Allocation(const Source& source, std::uint64_t volume_offset, const Geometry& geometry,
               const std::vector<clusters::OldFat>& left);

    const Geometry& geometry() const { return geometry_; }
    bool has_bitmap() const { return has_bitmap_; }
    /// Where it is in the source.
    const std::vector<ByteRange>& bitmap_ranges() const { return bitmap_ranges_; }

    Chain follow(Cluster start, const clusters::ChainLimits& limits, const ClusterSet& taken) const {
        return follow_fat(grid_, fat_, start, limits, taken);
    }
    Chain follow(Cluster start, std::uint64_t most) const {
        return follow(start, {most, most}, ClusterSet());
    }

  private:
    void load_bitmap(const Source& source);
    void load_bitmap_run(const Source& source, const ByteRange& range, std::uint64_t first_bit);

    Geometry geometry_;
    clusters::TableEntries fat_;
    bool has_bitmap_ = false;
    std::vector<ByteRange> bitmap_ranges_;
};

}  // namespace undershelf::exfat
