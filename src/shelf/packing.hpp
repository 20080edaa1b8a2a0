#pragma once
// Lists of pieces, claims and evidence as one value each, so that an entry costs the shelf two rows and not
// twenty. docs/shelf-format.md gives the byte layout.

#include "base/bytes.hpp"
#include "volume/model.hpp"

namespace undershelf {

ByteVector pack_pieces(const std::vector<Piece>& pieces);
ByteVector pack_ranges(const std::vector<ByteRange>& ranges);
ByteVector pack_evidence(const std::vector<Evidence>& evidence);

/// The whole names that old_name evidence tells, each once, in its order, most_earlier_names at most: JSON,
/// an array of paths; empty for none.
std::string pack_earlier_names(const std::vector<Evidence>& evidence);

/// The reverse. A value that is cut off or makes no sense yields what is before the damage.
std::vector<Piece> unpack_pieces(Bytes packed);
std::vector<ByteRange> unpack_ranges(Bytes packed);
std::vector<Evidence> unpack_evidence(Bytes packed);
std::vector<std::string> unpack_earlier_names(std::string_view packed);

}  // namespace undershelf
