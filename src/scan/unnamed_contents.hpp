#pragma once
// The pass that looks for contents that nothing names: in the space that nobody with a good claim has, at the
// places where the sweep saw that one may begin. What it finds goes into the shelf as it comes, with the
// place it came to, so that an interrupted pass goes on.

#include "base/progress.hpp"
#include "scan/narrowing.hpp"
#include "shelf/writer.hpp"
#include "source/source.hpp"

namespace undershelf {

/// Needs everything else in the shelf, checked and rated. Returns how many are listed. `decoder_program` as
/// in CheckOptions.
std::uint64_t find_unnamed(const Source& source, const Narrowing& wanted, const std::string& decoder_program,
                           ShelfWriter& shelf, Progress& progress);

}  // namespace undershelf
