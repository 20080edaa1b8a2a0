#include "rating/good_claims.hpp"

#include <algorithm>

namespace undershelf {

namespace {

constexpr std::uint64_t all = ~0ull;

/// Bytes of a content, from its start.
std::uint64_t good_bytes(const NamedContent& c) {
    if (c.origin == Origin::live || c.is_dir || c.grade >= Grade::likely) return all;
    if (c.grade == Grade::gone || c.contradicts) return 0;
    if (!c.holds_to) return all;
    // What ends whole, but not where it should, is something else.
    return c.complete && *c.holds_to != c.size ? 0 : *c.holds_to;
}

}  // namespace

void append_good_claims(const NamedContent& c, std::vector<ByteRange>& out) {
    const auto good = good_bytes(c);
    if (good == all) {
        out.insert(out.end(), c.claims.begin(), c.claims.end());
        return;
    }
    for (const auto& p : c.pieces) {
        if (p.offset >= good) break;
        if (p.kind == PieceKind::stored) out.push_back({p.source, std::min(p.length, good - p.offset)});
        if (p.kind == PieceKind::packed) out.insert(out.end(), p.input.begin(), p.input.end());
    }
}

}  // namespace undershelf
