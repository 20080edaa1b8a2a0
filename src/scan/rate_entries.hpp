#pragma once
// Rates what a scan has found, once all claims are known.

#include <vector>

#include "shelf/writer.hpp"
#include "source/source.hpp"

namespace undershelf {

/// `volumes`: those of the shelf. Ends early once `progress` says so.
void rate_entries(const Source& source, const std::vector<Volume>& volumes, ShelfWriter& shelf,
                  Progress& progress);

}  // namespace undershelf
