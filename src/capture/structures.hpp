#pragma once
// What of a source the file systems on it are read from.

#include "base/progress.hpp"
#include "source/coverage.hpp"
#include "volume/file_system.hpp"

namespace undershelf {

struct VolumeStructures {
    Volume volume;
    std::vector<Structure> structures;
};

/// The present volumes of a source, with where their own structures are. Reads partition maps, heads and
/// these.
std::vector<VolumeStructures> find_structures(const Source& source, Progress& progress);

/// All of their ranges that lie on a source of `size` bytes, widened to whole sectors of `sector` bytes, the
/// most important of all volumes first.
std::vector<ByteRange> ranges_of(const std::vector<VolumeStructures>& volumes, std::uint64_t size,
                                 std::uint32_t sector);

/// How much of a volume's structures is in an image.
struct StructureCoverage {
    Volume volume;
    struct Part {
        std::string what;
        std::uint64_t bytes = 0, not_copied = 0, unreadable = 0;
    };
    std::vector<Part> parts;  ///< of which something is missing
};
std::vector<StructureCoverage> covered(const std::vector<VolumeStructures>& volumes,
                                       const Coverage& coverage);

/// `range` widened to whole sectors, within `size` bytes; nothing when it lies outside.
std::optional<ByteRange> whole_sectors(const ByteRange& range, std::uint32_t sector, std::uint64_t size);

}  // namespace undershelf
