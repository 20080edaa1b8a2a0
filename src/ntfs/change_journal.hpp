#pragma once
// The change journal, $Extend\$UsnJrnl:$J: a stream of records that name every file that was made, renamed or
// deleted, with the time. Records of versions 2 and 3 after [MS-FSCC], reply of FSCTL_READ_FILE_USN_DATA.

#include "ntfs/file_info.hpp"
#include "ntfs/mention.hpp"

namespace undershelf::ntfs {

/// Hands on what the records in `stream` say of names, oldest first. What makes no sense is stepped over. Of
/// a journal larger than 1 GiB the newest part is read.
void read_change_journal(const Source& source, std::uint64_t volume_offset, const Geometry& geometry,
                         const Stream& stream, const MentionSink& sink);

/// The records in a stretch of the journal, which is at `offset` in the source, bytes.
void read_journal_records(Bytes bytes, std::uint64_t offset, const MentionSink& sink);

}  // namespace undershelf::ntfs
