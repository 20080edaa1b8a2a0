#pragma once
// How much room an export needs at its destination.

#include "export/job.hpp"
#include "source/source.hpp"

namespace undershelf {

/// Bytes of a content that stand anywhere; holes and what is lost take no room.
std::uint64_t bytes_held(const std::vector<Piece>& pieces);
/// A file larger than its source whose content is mostly holes: nobody means it by selecting everything.
bool is_mostly_holes(const ShelfEntry& entry, const std::vector<Piece>& pieces, const Source& source);

/// Throws Error(refused) when the selected files do not fit.
void check_free_space(const Shelf& shelf, const Source& source, const ExportOptions& options);

}  // namespace undershelf
