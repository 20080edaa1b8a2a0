#pragma once
// Selections that no row of a shelf can answer: words in contents, sums of contents, what belongs together by
// name. What they come to is worked out once, and everything after it selects by that.

#include <string>

#include "base/progress.hpp"
#include "shelf/shelf.hpp"

namespace undershelf {

struct Chosen {
    Selection selection;            ///< with `among`, where somebody had to look
    std::uint64_t looked_into = 0;  ///< files
    // Files that words were not looked for in, since no check has told what they are:
    std::uint64_t unchecked_lost = 0, unchecked_live = 0;
    std::uint64_t no_sum = 0;  ///< files without a sum, as bytes of them are missing
    bool interrupted = false;  ///< `among` is what was found until then
};

/// Opens the shelf's source where contents are asked for, at `source_path` if that is not empty. Reads on all
/// cores. Throws Error(input) when it is not there or another one, Error(usage) for words that hold none.
Chosen choose(const Shelf& shelf, Selection selection, const std::string& source_path, Progress& progress);

}  // namespace undershelf
