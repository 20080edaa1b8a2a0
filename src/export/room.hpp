#pragma once
// How much room an export needs at its destination.

#include "export/job.hpp"
#include "source/source.hpp"

namespace undershelf {

/// Bytes of a content that are anywhere; holes and what is lost take no room.
std::uint64_t bytes_held(const std::vector<Piece>& pieces);
/// A file larger than its source whose content is mostly holes: nobody means it by selecting everything.
bool is_mostly_holes(const ShelfEntry& entry, const std::vector<Piece>& pieces, const Source& source);

/// Bytes that the selected files take. Throws Error(refused) when they do not fit.
std::uint64_t check_free_space(const Shelf& shelf, const Source& source, const ExportOptions& options);

}  // namespace undershelf
