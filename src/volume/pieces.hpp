#pragma once
// What the pieces of a content read of the source.

#include "volume/model.hpp"

namespace undershelf {

/// Calls `visit(source range, file range)` for every stretch of the source that pieces read, in their order;
/// each one of a packed piece is of all of that piece. Inlined bytes were copied while their record was
/// whole.
template <class Visit>
void for_each_source_range(const std::vector<Piece>& pieces, const Visit& visit) {
    for (const auto& p : pieces) {
        const ByteRange file{p.offset, p.length};
        if (p.kind == PieceKind::stored) visit(p.source_range(), file);
        if (p.kind != PieceKind::packed) continue;
        for (const auto& r : p.input) visit(r, file);
    }
}

/// Do they read any of these bytes?
inline bool touch(const std::vector<Piece>& pieces, const RangeSet& ranges) {
    bool out = false;
    for_each_source_range(pieces,
                          [&](const ByteRange& source, const ByteRange&) { out |= ranges.touches(source); });
    return out;
}

}  // namespace undershelf
