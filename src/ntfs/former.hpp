#pragma once
// NTFS volumes that have no boot sector any more: the usual reader gets a geometry that was worked out, or
// told, and a table made of the file records that were found.

#include "ntfs/mft.hpp"
#include "volume/file_system.hpp"

namespace undershelf::ntfs {

/// As Volume::geometry keeps it. `numbered`: stretches of records that do not know their numbers.
std::string pack_geometry(const Geometry& geometry, const std::vector<TablePart>& numbered = {});
std::optional<Geometry> unpack_geometry(const std::string& text);

/// Of records whose clusters nobody can place: they have no cluster that is known.
Geometry no_geometry(std::uint32_t record_size);

/// The stretches of record tables among `traces` in `where`: records that know their numbers are one after
/// the other; and those of `numbered` that are there. Where two tell of the same numbers, the longer one has
/// them.
std::vector<TablePart> table_parts(const TraceStore& traces, const ByteRange& where,
                                   std::uint32_t record_size, const std::vector<TablePart>& numbered = {});

std::unique_ptr<VolumeReader> open_former(const Source& source, const Volume& volume,
                                          const TraceStore& traces);
/// Throws Error(usage).
Recognition as_told(const VolumeHint& told, const Settling& settling);

}  // namespace undershelf::ntfs
