#pragma once
// The numbers of file records that do not know them: records of the older form, which some drivers still
// write. A folder's index says which record has which name in it, and a record says its name and its folder:
// so one record of a stretch tells where the table began, and with it the numbers of all the others.

#include <vector>

#include "ntfs/mft.hpp"
#include "volume/trace.hpp"

namespace undershelf::ntfs {

/// Stretches of records without numbers, of this size, with their offsets in the table; those that nothing
/// tells of are left out. Where a stretch is told of differently, most of what tells of it counts.
std::vector<TablePart> number_stretches(const Source& source, const TraceStore& traces,
                                        std::uint32_t record_size, const Progress& progress);

}  // namespace undershelf::ntfs
