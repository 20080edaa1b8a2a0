#pragma once
// Stretches of old FATs. Most entries of a chain say "the next one": entry i holds i + 1. So an entry that
// holds v and is at position p belongs to a table that starts at F = p - w * (v - 1), w bytes an entry,
// and a sector of such entries places its table by itself.

#include <initializer_list>
#include <vector>

#include "volume/trace.hpp"

namespace undershelf::clusters {

/// A stretch of whole sectors, eight at most, whose entries agree on where their table starts.
struct FatStretch {
    ByteRange range;          ///< in the source
    std::uint64_t table = 0;  ///< where entry 0 of its table is in the source
    unsigned bits = 32;       ///< of an entry: 12, 16 or 32
    bool operator==(const FatStretch&) const = default;
};

/// The stretches that start in the owned part of a buffer. `mask`: of the bits that 32-bit entries use.
/// Looks at entries of `widths` bits alone.
std::vector<FatStretch> find_fat_stretches(const SweepBuffer& buffer, std::uint32_t mask,
                                           std::initializer_list<unsigned> widths);

/// As a trace, and back.
Trace trace_of(const FatStretch& stretch, std::uint32_t kind);
FatStretch stretch_of(const Trace& trace);

}  // namespace undershelf::clusters
