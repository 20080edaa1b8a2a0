#pragma once
// Contents that do not hold where they were assumed to lie, and are laid out anew by what is in them.

#include <string>

#include "base/progress.hpp"
#include "mend/effort.hpp"
#include "scan/mend_scene.hpp"
#include "shelf/writer.hpp"
#include "source/source.hpp"

namespace undershelf {

struct MendOptions {
    MendSelection of;  ///< which contents are mended
    MendEffort effort = MendEffort::normal;
    std::string decoder_program = {};  ///< as DecodersApart has it
};

/// Tries lost files that a check found not to hold, whose layout is assumed, and whose format has a check
/// that is fair at least, the best-founded first; again as long as some were mended, since their clusters
/// are no candidates for others then. A live file's layout, and a recorded one, is never touched. Returns how
/// many were mended. What the effort has no room for is said in the shelf. Once `progress` says so nothing
/// more is tried or kept.
std::uint64_t mend_contents(const Source& source, const MendOptions& options, ShelfWriter& shelf,
                            Progress& progress);

}  // namespace undershelf
