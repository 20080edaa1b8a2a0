#pragma once
// Reads contents to their end with the format readers, and puts into the shelf what came of it.

#include <optional>
#include <string>
#include <utility>

#include "base/progress.hpp"
#include "mend/effort.hpp"
#include "scan/narrowing.hpp"
#include "shelf/writer.hpp"
#include "source/source.hpp"

namespace undershelf {

struct CheckOptions {
    std::string shelf_path;
    std::string source_path = {};  ///< empty: where the shelf says it is
    Selection selection = {};
    Narrowing contents = {};  ///< which contents it is about; names that promise others are left out
    bool again = false;       ///< also what was checked before
    MendEffort effort = MendEffort::normal;  ///< for contents in pieces
    std::string decoder_program = {};        ///< as DecodersApart has it
    CommandLine command = {};                ///< that asks, for the shelf's journal
};

struct CheckResult {
    bool interrupted = false;
    std::uint64_t files = 0;      ///< that were read
    std::uint64_t bytes = 0;      ///< of them
    std::uint64_t verified = 0;   ///< lost ones whose content is proven
    std::uint64_t live_held = 0;  ///< the same of live ones, which keep their grade
    std::uint64_t held =
        0;  ///< hold to an end, and are not proven: by a weak check, or short of their length
    std::uint64_t broken = 0;  ///< something in them contradicts
    std::uint64_t cut = 0;     ///< nothing contradicts: they go on after what is there
    std::uint64_t mended =
        0;  ///< of those that did not hold: lay in pieces, and hold where they were found to lie
    std::uint64_t unfinished = 0;  ///< cost more than a check may
    /// The number of the first of them, and why.
    std::optional<std::pair<std::int64_t, std::string>> first_unfinished;
    std::uint64_t unknown = 0;  ///< of formats that nobody here reads
    std::uint64_t waiting = 0;  ///< have bytes that are not copied into the image yet
    std::uint64_t before = 0;   ///< had been checked before
    std::uint64_t unnamed = 0;  ///< were read to their end when they were found
};

/// Those that were read to what end they have.
inline std::uint64_t checked_files(const CheckResult& r) {
    return r.verified + r.live_held + r.held + r.broken + r.cut;
}

/// Checks the selected files of a shelf, without rating them. Lost ones that are `gone` have nothing to read.
/// Of `options` selection, contents, again and decoder_program count.
CheckResult check_files(const Source& source, ShelfWriter& shelf, const CheckOptions& options,
                        Progress& progress);

/// All cores read; results are in the shelf as they come, so that an interrupted check goes on. Lost files
/// that hold get their grade at the end. Throws Error.
CheckResult check_contents(const CheckOptions& options, Progress& progress);

}  // namespace undershelf
