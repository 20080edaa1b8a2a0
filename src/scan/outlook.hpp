#pragma once
// What the shelf keeps for whoever asks what to do next: what the source has beside volumes, and what further
// passes over it would take and have to look at.

#include "layout/find_volumes.hpp"
#include "shelf/writer.hpp"

namespace undershelf {

/// Partitions without a volume, file systems that are known by name alone, and whether the drive discards.
void note_layout(const Source& source, const SourceLayout& layout, ShelfWriter& shelf);
/// What is in the space that nobody with a good claim has, and how long looking for contents there would
/// take.
void look_at_unclaimed(const Source& source, ShelfWriter& shelf, Progress& progress);
/// The same, at the end of a scan, with how fast the source is read.
void look_ahead(const Source& source, ShelfWriter& shelf, Progress& progress);
/// Once contents were looked for nobody asks any more.
void forget_outlook(ShelfWriter& shelf);

}  // namespace undershelf
