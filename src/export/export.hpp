#pragma once
// Writing selected entries to another place as a BagIt bag (RFC 8493), with `exported.jsonl` beside the
// manifest.

#include "base/progress.hpp"
#include "export/counts.hpp"
#include "export/job.hpp"
#include "source/source.hpp"

namespace undershelf {

/// Exports. What an interrupted export of the same shelf left in `to` is gone on with, and entries that
/// failed are tried again. Throws Error(refused) when `to` holds anything else, is being written to, or has
/// too little room, and when it is on the source.
ExportResult export_entries(const Shelf& shelf, const Source& source, const ExportOptions& options,
                            Progress& progress);

}  // namespace undershelf
