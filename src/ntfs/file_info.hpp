#pragma once
// What one file's records tell together: its names, times and streams, with the parts of them that are in
// extension records.

#include <functional>
#include <map>
#include <string>
#include <vector>

#include "ntfs/geometry.hpp"
#include "ntfs/links.hpp"
#include "ntfs/record.hpp"
#include "volume/model.hpp"

namespace undershelf::ntfs {

struct Name {
    std::uint64_t parent_record = 0;
    std::uint16_t parent_sequence = 0;
    std::u16string name;
    std::uint8_t type = 0;
    MaybeTime modified, created;
    MaybeTime changed;  ///< of the file's metadata, its name among them
};

/// One $DATA, named or not, as far as its parts were found.
struct Stream {
    std::u16string name;
    bool resident = true;
    ByteVector bytes;            ///< resident
    std::uint64_t bytes_at = 0;  ///< where they are in the source
    std::vector<Run> runs;       ///< in the order of their virtual clusters
    std::uint64_t next_vcn = 0;  ///< how far the runs reach, clusters
    bool broken = false;         ///< parts of the run list are lost or make no sense
    std::uint16_t flags = 0;
    std::uint8_t compression_unit = 0;
    std::uint64_t size = 0, valid_size = 0;
};

struct FileInfo {
    std::uint16_t flags = 0;
    std::vector<Name> names;
    /// They are from after the used part of its freed records, from which they were taken out.
    bool names_taken_out = false;
    MaybeTime created, modified, accessed;
    std::uint32_t attributes = 0;
    std::vector<Stream> streams;
    std::vector<Run> index_runs;  ///< of $I30
    std::optional<ReparsePoint> reparse;
    std::uint64_t reparse_at = 0;  ///< where it is in the source
};

/// A record with its fixups undone; no bytes for none. `offset` is its place in the source.
struct Record {
    Bytes bytes;
    std::uint64_t offset = 0;
    bool torn = false;
};
/// Gives records by their numbers. The bytes of one are good until the next one is asked for.
using RecordSource = std::function<Record(std::uint64_t number)>;

/// Reads record `number`, and its extension records from `record`.
FileInfo read_file(const Source& source, std::uint64_t volume_offset, const Geometry& geometry,
                   const Record& base, std::uint64_t number, const RecordSource& record);

/// A $FILE_NAME, wherever it is; nothing when its length lies.
std::optional<Name> parse_name(Bytes value);

/// Pieces of a stream, and the source ranges allocated to it.
void lay_out(const Stream& stream, const Geometry& geometry, std::uint64_t volume_offset,
             std::vector<Piece>& pieces, std::vector<ByteRange>& claims);

}  // namespace undershelf::ntfs
