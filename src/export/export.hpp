#pragma once
// Writing selected entries to another place as a BagIt bag (RFC 8493), with `exported.jsonl` beside the
// manifest.

#include "base/progress.hpp"
#include "export/job.hpp"
#include "source/source.hpp"

namespace undershelf {

struct ExportResult {
    std::uint64_t whole = 0, partial = 0, skipped = 0, failed = 0, folders = 0;
    std::uint64_t bytes = 0;    ///< written, all files together
    std::uint64_t resumed = 0;  ///< of them, entries that an interrupted export had written before
    std::uint64_t links = 0, made_links = 0;  ///< of them, links; and those made links, not text files
    bool interrupted = false;
};

/// Exports. What an interrupted export of the same shelf left in `to` is gone on with, and entries that
/// failed are tried again. Throws Error(refused) when `to` holds anything else, is being written to, or has
/// too little room, and when it stands on the source.
ExportResult export_entries(const Shelf& shelf, const Source& source, const ExportOptions& options,
                            Progress& progress);

}  // namespace undershelf
