#pragma once
// Runs the passes over a source and writes what they find into one shelf.

#include <string>

#include "base/progress.hpp"
#include "volume/file_system.hpp"

namespace undershelf {

struct ScanOptions {
    std::string source_path;
    std::string shelf_path;
    std::string unreadable_list;  ///< path of a CSV, or empty
    ReadOptions read;
};

struct ScanResult {
    bool interrupted = false;
    bool was_complete = false;  ///< the shelf held everything already
    std::uint64_t entries = 0;  ///< in the shelf
    std::vector<Volume> volumes;
    std::vector<std::string> diagnostics;
    RangeSet unreadable;
};

/// Scans with the reach `volumes`. A shelf that is there already is gone on with when it is this source's.
/// Throws Error.
ScanResult scan(const ScanOptions& options, Progress& progress);

}  // namespace undershelf
