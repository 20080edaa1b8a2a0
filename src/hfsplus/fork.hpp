#pragma once
// Forks: the extents of a file's content, and reading a fork as one stretch of bytes.

#include <vector>

#include "hfsplus/structures.hpp"
#include "source/source.hpp"

namespace undershelf::hfsplus {

/// Where a volume is and how it is divided.
struct Geometry {
    std::uint64_t offset = 0;  ///< of the volume in the source, bytes
    std::uint32_t block_size = 0;
    std::uint32_t total_blocks = 0;
};

struct Extent {
    std::uint32_t start = 0, count = 0;  ///< allocation blocks
    bool operator==(const Extent&) const = default;
};

/// The extents of a descriptor array up to the first empty one. `sound` is cleared when one leaves the
/// volume; it and what follows are left out.
std::vector<Extent> extents_of(const HFSPlusExtentDescriptor (&extents)[8], std::uint32_t total_blocks,
                               bool& sound);

class Fork {
  public:
    Fork() = default;
    /// `size` in bytes; it is cut to what the extents hold.
    Fork(const Source& source, const Geometry& geometry, std::vector<Extent> extents, std::uint64_t size);

    /// Made of stretches of the source, one after the other.
    Fork(const Source& source, const std::vector<ByteRange>& stretches);

    std::uint64_t size() const { return size_; }
    /// Fills `out` from `offset` of the fork; zeros beyond its end.
    void read(std::uint64_t offset, MutableBytes out) const;
    /// Where a stretch of the fork is in the source.
    std::vector<ByteRange> places(std::uint64_t offset, std::uint64_t length) const;
    /// The fork's offset of a source offset; nothing when it is not in the fork.
    std::optional<std::uint64_t> offset_of(std::uint64_t source_offset) const;

  private:
    struct Part {
        std::uint64_t offset;  ///< in the fork
        ByteRange source;
    };
    const Source* source_ = nullptr;
    std::vector<Part> parts_;
    std::uint64_t size_ = 0;
};

}  // namespace undershelf::hfsplus
