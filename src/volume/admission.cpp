#include "volume/admission.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace undershelf {

namespace {

void limit_size(Entry& e) {
    if (e.size <= bound::file_size) return;
    e.evidence.push_back({Fact::bad_metadata, 0, 0,
                          fmt::format("its size is said to be {} bytes, which no file can have", e.size)});
    e.size = bound::file_size;
}

void limit_pieces(Entry& e) {
    while (!e.pieces.empty() && e.pieces.back().offset >= e.size) e.pieces.pop_back();
    if (e.pieces.empty()) return;
    auto& last = e.pieces.back();
    last.length = std::min(last.length, e.size - last.offset);
}

/// A file that has nothing behind what the volume can hold was never that long.
void say_if_too_long(Entry& e, const Volume& volume) {
    if (e.is_dir || e.size <= volume.size || e.pieces.empty()) return;
    const auto& last = e.pieces.back();
    if (last.kind == PieceKind::missing && last.length > volume.size)
        e.evidence.push_back(
            {Fact::bad_metadata, 0, 0,
             fmt::format("its size is said to be {} bytes, and the volume has {}", e.size, volume.size)});
}

/// Beyond the budget a live entry claims everything from its first to its last byte, and a lost one only its
/// first stretch: rather too much is taken for overwritten than too little.
void limit_claims(Entry& e, Budget& budget) {
    if (budget.take(Budget::Cost::claim, e.claims.size()) == e.claims.size()) return;
    if (e.origin == Origin::live) {
        auto from = e.claims.front().offset, to = e.claims.front().end();
        for (const auto& r : e.claims) {
            from = std::min(from, r.offset);
            to = std::max(to, r.end());
        }
        e.claims.front() = {from, to - from};
    }
    e.claims.resize(1);
}

}  // namespace

void admit(Entry& e, const Volume& volume, Budget& budget) {
    budget.found();
    limit_size(e);
    limit_pieces(e);
    say_if_too_long(e, volume);
    limit_claims(e, budget);
}

}  // namespace undershelf
