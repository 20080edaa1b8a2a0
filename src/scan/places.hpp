#pragma once
// Where files were before: entries that a move left become the file's earlier names, and what is in a bin
// gets its first path.

#include "base/progress.hpp"
#include "shelf/writer.hpp"
#include "source/source.hpp"

namespace undershelf {

/// To be called once all volumes are read, and before entries are rated: those of one file are no rivals.
/// What is in a bin, live or lost, is marked as such, with its first path and time of deletion where a record
/// of the bin or a name of before tells them; what only serves the bin as a helper.
void settle_places(const Source& source, ShelfWriter& shelf, Progress& progress);

}  // namespace undershelf
