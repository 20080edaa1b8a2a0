#pragma once
// Folders that are sequences of 32-byte slots, as on FAT and exFAT, with where each slot came from.

#include <vector>

#include "source/source.hpp"

namespace undershelf::clusters {

/// A folder's bytes in order, with where each came from.
class FolderBytes {
  public:
    static constexpr std::size_t slot_size = 32;

    /// Reads `ranges` of the source one after the other.
    FolderBytes(const Source& source, const std::vector<ByteRange>& ranges);

    std::size_t slots() const { return bytes_.size() / slot_size; }
    const std::uint8_t* slot(std::size_t index) const { return bytes_.data() + index * slot_size; }
    bool readable(std::size_t index) const;
    /// Source offset of a slot, bytes.
    std::uint64_t source_offset(std::size_t index) const;
    const RangeSet& missing() const { return missing_; }

  private:
    struct Part {
        std::size_t first_slot;
        std::uint64_t source;
    };
    ByteVector bytes_;
    std::vector<Part> parts_;
    RangeSet missing_;
};

}  // namespace undershelf::clusters
