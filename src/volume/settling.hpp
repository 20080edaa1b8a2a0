#pragma once
// What file systems are given to make volumes of traces, and what is asked of it by all of them.

#include <limits>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "source/source.hpp"
#include "volume/model.hpp"
#include "volume/trace.hpp"

namespace undershelf {

struct ReadOptions;

/// What a technician says of a volume that nothing on the source can tell of any more.
struct VolumeHint {
    std::uint64_t offset = 0;  ///< of the volume in the source, bytes
    std::string system;        ///< `FAT12`, `FAT16`, `FAT32`, `exFAT`, `NTFS`, `HFS+` or `HFSX`
    std::optional<std::uint32_t> cluster_size;
    std::optional<std::uint64_t> data_offset;  ///< of the first cluster in the source, bytes
};

/// What was read of a present volume, as far as former ones are told from it.
struct PresentLife {
    Volume volume;
    /// Ticks of the oldest creation among what its tree names; the volume was formatted before. Latest
    /// possible for a volume that holds nothing.
    std::int64_t oldest = std::numeric_limits<std::int64_t>::max();
};

/// What former volumes are made of.
struct Settling {
    const Source& source;
    const TraceStore& traces;                 ///< of the file system that is asked
    const std::vector<PresentLife>& present;  ///< volumes of all file systems
    const std::vector<std::uint64_t>& heads;  ///< places of sectors that may be heads of volumes
    const RangeSet& taken;  ///< held by live files, or by present volumes of this file system
    const ReadOptions& options;

    /// The present volume that a place lies in; null for none.
    const Volume* present_around(std::uint64_t place) const;
    /// True where no present volume has any of it: then nothing was formatted over what lay there.
    bool nothing_over(const ByteRange& range) const;
    /// Where volumes of a file system begin by themselves, and where the present ones do.
    std::vector<std::uint64_t> usual_starts(std::span<const std::uint64_t> by_themselves) const;
    /// A former volume of which nothing tells the geometry: it may lie anywhere in the source.
    Volume somewhere(std::string family, std::string found_by) const;
};

}  // namespace undershelf
