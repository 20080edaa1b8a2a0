#pragma once
// A first look at a source: what is where, how full it is, how it is. Reads maps, heads, copies and
// samples only.

#include "layout/find_volumes.hpp"
#include "source/health.hpp"

namespace undershelf {

struct InspectedVolume {
    Recognition found;
    std::optional<Space> space;
    std::optional<double> zero_share;  ///< of the looked-at bytes of its free space that are zeros, 0 to 1
};

struct Inspection {
    std::string path;
    std::uint64_t size = 0;
    std::uint32_t sector_size = 512;
    bool is_drive = false;             ///< a block device and no image
    std::optional<DriveHealth> drive;  ///< what the system knows of it
    std::optional<std::uint64_t>
        not_copied;  ///< bytes of an image that are to come yet; nothing where none are
    std::optional<PartitionMap> map;
    std::vector<InspectedVolume> volumes;
    std::vector<Partition> bare_partitions;  ///< in which no volume was found
    std::vector<std::string> remarks;
    std::vector<ByteDevice::Gap> gaps;  ///< parts of a split image that are missing
    RangeSet unreadable;                ///< met while looking
    std::uint64_t unassigned = 0;       ///< bytes that belong to no volume and to no partition
};

/// `options` say how labels are decoded.
Inspection inspect(const Source& source, const ReadOptions& options = {});

}  // namespace undershelf
