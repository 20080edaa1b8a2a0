#include "volume/relayout.hpp"

#include <algorithm>

namespace undershelf {

std::vector<Piece> pieces_in_ranges(const std::vector<Piece>& pieces, const std::vector<ByteRange>& ranges) {
    std::vector<Piece> out;
    // How much of the file lies in ranges: all up to the first piece that does not.
    std::uint64_t stored = 0;
    auto rest = pieces.begin();
    for (; rest != pieces.end(); ++rest) {
        if (rest->kind != PieceKind::stored && rest->kind != PieceKind::missing) break;
        stored = rest->offset + rest->length;
    }
    const auto add = [&](PieceKind kind, std::uint64_t at, std::uint64_t length, std::uint64_t source) {
        Piece p;
        p.kind = kind;
        p.known = false;
        p.offset = at;
        p.length = length;
        p.source = source;
        out.push_back(std::move(p));
    };
    std::uint64_t at = 0;
    for (const auto& r : ranges) {
        if (at >= stored) break;
        const auto n = std::min(r.length, stored - at);
        add(PieceKind::stored, at, n, r.offset);
        at += n;
    }
    if (at < stored) add(PieceKind::missing, at, stored - at, 0);
    out.insert(out.end(), rest, pieces.end());
    return out;
}

namespace {
bool is_mending(const Evidence& e) {
    return e.fact == Fact::mended || e.fact == Fact::dealt || e.fact == Fact::left_over;
}
}  // namespace

bool was_mended(const std::vector<Evidence>& evidence) {
    return std::any_of(evidence.begin(), evidence.end(), is_mending);
}

void replace_layout_evidence(std::vector<Evidence>& evidence, const std::vector<Evidence>& more) {
    std::erase_if(evidence, [](const Evidence& e) {
        return e.fact == Fact::contiguous || e.fact == Fact::next_free || e.fact == Fact::layout_prior ||
               e.fact == Fact::chain_freed || e.fact == Fact::step_prior || e.fact == Fact::steps_over_lost ||
               is_mending(e);
    });
    evidence.insert(evidence.end(), more.begin(), more.end());
}

}  // namespace undershelf
