#pragma once
// What the heads of a ZIP file say of its members, held against one another and against what was unpacked
// (the format's application note, sections 4.3 and 4.4). A field that contradicts does not make a file wrong,
// for writers differ; but such a file may have a wrong byte, as one may in what nothing is held against.

#include <optional>
#include <vector>

#include "content/archive/zip_structures.hpp"

namespace undershelf::content {

/// What of an extra field the directory may say again (section 4.5).
struct ZipExtra {
    std::uint32_t print = 0;                     ///< CRC-32 of all of it
    std::optional<std::uint32_t> modified = {};  ///< of its time stamps, which the directory has again
    std::uint16_t length = 0;
    std::uint16_t uncovered = 0;  ///< of it, bytes that mean nothing that could be borne out
    bool sound = true;            ///< what in it means something is as it must be
};
ZipExtra zip_extra_of(Bytes extra);

/// A member, as its own head and its data have it.
struct ZipKnown {
    std::uint64_t offset = 0, packed = 0;
    std::optional<std::uint64_t> size;  ///< unpacked; nothing where it was not
    std::uint32_t name = 0;             ///< CRC-32 of it
    std::optional<std::uint32_t> crc;
    ZipExtra extra;
    std::uint16_t version = 0, flags = 0, method = 0, time = 0, date = 0;
};

std::uint32_t crc32_of(Bytes bytes);

class ZipHeads {
  public:
    /// In the order of their offsets. `large`: its lengths are told in its extra field.
    void add(const ZipKnown& member, const LocalHead& head, bool large);
    /// Does the directory say of a member what its own head does? Of more members than are kept in mind
    /// nothing is held against them.
    bool knows(const DirectoryHead& head, Bytes name, Bytes extra);
    /// The record of a directory of `listed` entries that lies from `start` to `end`.
    void end(const EndRecord& record, std::uint64_t start, std::uint64_t end, std::uint64_t listed);
    void expect(bool agrees) { consistent_ &= agrees; }
    void leaves(std::uint64_t uncovered) { uncovered_ += uncovered; }

    /// Is everything that is said twice said alike, and nothing that cannot be?
    bool consistent() const { return consistent_; }
    /// Bytes of heads that nothing is held against.
    std::uint64_t uncovered() const { return uncovered_; }

  private:
    void look_at(const DirectoryHead& head, const ZipKnown& known, Bytes extra);

    static constexpr std::size_t most_known = 1 << 20;
    std::vector<ZipKnown> known_;  ///< ascending
    std::uint64_t uncovered_ = 0;
    bool consistent_ = true;
};

}  // namespace undershelf::content
