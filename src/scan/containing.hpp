#pragma once
// Which contents hold certain words: what a customer remembers of a file whose name is gone.

#include <unordered_set>

#include "base/progress.hpp"
#include "shelf/shelf.hpp"
#include "source/source.hpp"

namespace undershelf {

struct Containing {
    std::unordered_set<std::int64_t> entries;  ///< in whose text, or title, all of the words are
    std::uint64_t files = 0;                   ///< that were looked through
    // That were not, since no check has told what they are:
    std::uint64_t unchecked_lost = 0, unchecked_live = 0;
    bool interrupted = false;
};

/// Looks through those of the selected files that were checked and are of a format whose text is read, as far
/// as they hold, 64 MiB of text each at most. Case and accents do not count; words are separated by spaces,
/// and all of them must be there. Reads on all cores. Throws Error(usage) when there is no word.
Containing find_containing(const Source& source, const Shelf& shelf, const Selection& selection,
                           const std::string& words, Progress& progress);

}  // namespace undershelf
