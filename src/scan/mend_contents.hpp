#pragma once
// Contents that do not hold where they were assumed to lie, and are laid out anew by what is in them.

#include <string>

#include "base/progress.hpp"
#include "mend/alone.hpp"
#include "mend/effort.hpp"
#include "shelf/writer.hpp"
#include "source/source.hpp"

namespace undershelf {

/// Which contents are mended.
enum class MendOf : std::uint8_t { named, unnamed };

/// Tries those that a check found not to hold, whose layout is assumed, and whose format has a check that is
/// fair at least, the best-founded first; again as long as some were mended, since what is theirs is nobody
/// else's then. A live file's layout, and a recorded one, is never touched. Returns how many were mended.
/// What the effort has no room for is said in the shelf.
std::uint64_t mend_contents(const Source& source, MendOf which, MendEffort effort,
                            const std::string& decoder_program, ShelfWriter& shelf, Progress& progress);

}  // namespace undershelf
