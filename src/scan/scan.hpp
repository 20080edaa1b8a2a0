#pragma once
// Runs the passes over a source and writes what they find into one shelf.

#include <string>

#include "base/progress.hpp"
#include "mend/effort.hpp"
#include "scan/narrowing.hpp"
#include "shelf/jobs.hpp"
#include "shelf/reach.hpp"
#include "volume/file_system.hpp"

namespace undershelf {

struct ScanOptions {
    std::string source_path;
    std::string shelf_path;
    std::string unreadable_list;  ///< path of a CSV, or empty
    ReadOptions read;
    Reach reach = Reach::volumes;
    Narrowing contents = {};                 ///< which contents Reach::content is about
    std::vector<VolumeHint> told = {};       ///< volumes that somebody says are there
    std::vector<int> without = {};           ///< numbers of former volumes that are none
    std::string decoder_program = {};        ///< as in CheckOptions
    MendEffort effort = MendEffort::normal;  ///< for contents in pieces, of Reach::content
    CommandLine command = {};                ///< that asks, for the shelf's journal
};

struct ScanResult {
    bool interrupted = false;
    bool was_complete = false;  ///< the shelf held everything already
    std::uint64_t entries = 0;  ///< in the shelf
    std::uint64_t unnamed = 0;  ///< files among them that nothing names
    std::vector<Volume> volumes;
    std::vector<std::string> diagnostics;
    RangeSet unreadable;       ///< for good
    RangeSet not_copied;       ///< of an image: not asked for yet
    std::uint64_t gained = 0;  ///< bytes that could be read now, and not when the shelf was made
};

/// A shelf that is there already is gone on with, or added to, when it is this source's: numbers and ids
/// stay. Throws Error.
ScanResult scan(const ScanOptions& options, Progress& progress);

}  // namespace undershelf
