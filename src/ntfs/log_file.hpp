#pragma once
// The log, $LogFile: a ring of pages with images of records and index entries from before and after the last
// changes. Read for the names in it, not replayed. Page heads after the Linux kernel's ntfs3 (fslog.c).

#include "ntfs/file_info.hpp"
#include "ntfs/mention.hpp"

namespace undershelf::ntfs {

/// Hands on every name that pages of the log give together with the file's reference: in index entries and in
/// images of whole records. Reads at most 256 MiB of it.
void read_log(const Source& source, std::uint64_t volume_offset, const Geometry& geometry,
              const Stream& stream, const MentionSink& sink);

}  // namespace undershelf::ntfs
