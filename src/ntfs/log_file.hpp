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

/// A $FILE_NAME with the index entry before it, if these bytes can be that: the lengths agree, and the times
/// are of this age.
std::optional<Mention> index_entry_mention(Bytes bytes);
/// Could a $FILE_NAME stand here? Its four times are of this age, and its name is one.
bool looks_like_name(Bytes bytes);

}  // namespace undershelf::ntfs
