#pragma once
// Giving an entry another layout than it was handed over with.

#include "volume/file_system.hpp"

namespace undershelf {

/// The same content in other ranges: what was stored or missing is stored there as far as they reach, and
/// assumed; zeros and what is kept with the entry stay.
std::vector<Piece> pieces_in_ranges(const std::vector<Piece>& pieces, const std::vector<ByteRange>& ranges);

/// Was it laid out by its content, or its neighbours', other than it was taken to lie?
bool was_mended(const std::vector<Evidence>& evidence);

/// Takes out what was said of how a layout was assumed, and adds `more`.
void replace_layout_evidence(std::vector<Evidence>& evidence, const std::vector<Evidence>& more);

}  // namespace undershelf
