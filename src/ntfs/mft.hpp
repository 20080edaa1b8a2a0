#pragma once
// The master file table: records by their numbers, wherever its own run list put them.

#include <vector>

#include "base/progress.hpp"
#include "ntfs/file_info.hpp"

namespace undershelf::ntfs {

/// What the table says of a record at a glance; four bytes each, for tables of millions.
struct Glance {
    std::uint16_t sequence = 0;
    bool is_record : 1 = false;
    bool in_use : 1 = false;
    bool is_dir : 1 = false;
    bool is_base : 1 = false;
    bool torn : 1 = false;
    bool is_extend : 1 = false;  ///< its first name is in $Extend
};

/// Bytes of the table that were read together. Everybody who reads records has one of their own, so that
/// several threads can read at a time.
struct RecordWindow {
    explicit RecordWindow(std::uint64_t most_bytes = 1 << 20) : most(most_bytes) {}
    std::uint64_t most;           ///< bytes to read at a time
    std::uint64_t start = ~0ull;  ///< in the source, bytes
    ByteVector bytes;
    std::vector<bool> torn;  ///< for each record
};

/// A stretch of the table that lies in one piece.
struct TablePart {
    std::uint64_t offset = 0;  ///< in the table, bytes
    ByteRange source;
};

class Mft {
  public:
    /// Finds the table by record 0, or by its mirror when that is damaged. Empty when neither can be read.
    Mft(const Source& source, std::uint64_t volume_offset, const Geometry& geometry);

    /// The table of a former volume, of which these parts are left, ascending by their offsets and apart.
    Mft(const Source& source, std::uint64_t volume_offset, const Geometry& geometry,
        std::vector<TablePart> parts);

    std::uint64_t records() const { return records_; }
    bool from_mirror() const { return from_mirror_; }
    /// A record with its fixups undone, also a torn one; no bytes when no record is there.
    Record get(std::uint64_t number, RecordWindow& window) const;
    /// Looks at every record once.
    std::vector<Glance> glance(Progress& progress) const;

  private:
    std::uint64_t place_of(std::uint64_t number) const;
    void set_runs(const std::vector<Run>& runs);
    std::uint64_t held() const;

    const Source& source_;
    std::uint64_t volume_offset_;
    Geometry geometry_;
    std::vector<TablePart> parts_;
    std::uint64_t records_ = 0;
    bool from_mirror_ = false;
};

}  // namespace undershelf::ntfs
