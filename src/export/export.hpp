#pragma once
// Writing selected entries to another place as a BagIt bag (RFC 8493), with `exported.jsonl` beside the
// manifest.

#include <string>

#include "base/progress.hpp"
#include "shelf/shelf.hpp"
#include "source/source.hpp"

namespace undershelf {

struct ExportOptions {
    std::string to;  ///< the folder of the bag
    Selection selection;
    bool flat = false;  ///< all files into one folder each for live, deleted, ..., without their tree
};

struct ExportResult {
    std::uint64_t whole = 0, partial = 0, skipped = 0, failed = 0, folders = 0;
    std::uint64_t bytes = 0;    ///< written, all files together
    std::uint64_t resumed = 0;  ///< of them, entries that an interrupted export had written before
    bool interrupted = false;
};

/// Exports. What an interrupted export of the same shelf left in `to` is gone on with. Throws Error(refused)
/// when `to` holds anything else or has too little room, and when it stands on the source.
ExportResult export_entries(const Shelf& shelf, const Source& source, const ExportOptions& options,
                            Progress& progress);

}  // namespace undershelf
