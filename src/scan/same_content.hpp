#pragma once
// Which files hold the same bytes: lost ones that are still there as live ones need no saving.

#include "base/progress.hpp"
#include "shelf/writer.hpp"
#include "source/source.hpp"

namespace undershelf {

/// Compares files of equal size where at least one is lost, by their first bytes and then by SHA-256 of all.
/// What is graded gone or partial, and what cannot be read whole, is left out. Reads a bounded amount.
void find_same_content(const Source& source, ShelfWriter& shelf, Progress& progress);

}  // namespace undershelf
