#pragma once
// Writing selected entries to another place as a BagIt bag (RFC 8493), with `exported.jsonl` beside the
// manifest.

#include "base/progress.hpp"
#include "export/counts.hpp"
#include "export/job.hpp"
#include "source/source.hpp"

namespace undershelf {

/// Exports into a bag in each of the folders, one after the other as long as there are files without room.
/// What an interrupted export of the same shelf left there is gone on with; to a finished bag of the same
/// shelf a round is added, of what it does not have yet. Entries that failed are tried again. Throws
/// Error(refused) when a folder holds anything else, is being written to, or is on the source, and when there
/// is too little room.
ExportResult export_entries(const Shelf& shelf, const Source& source, const ExportOptions& options,
                            Progress& progress);

}  // namespace undershelf
