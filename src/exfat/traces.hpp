#pragma once
// What an exFAT volume leaves on a source after it was formatted over, or after its head was lost: entry sets
// with checksums that hold, the root folder's entries of bitmap and up-case table, that table itself, and
// stretches of the FAT.

#include <optional>

#include "exfat/structures.hpp"
#include "volume/trace.hpp"

namespace undershelf::exfat {

/// An entry set, as its trace tells it.
struct SetTrace {
    std::uint64_t offset = 0;  ///< of its first slot in the source
    std::uint32_t first_cluster = 0;
    std::uint64_t length = 0;  ///< DataLength, bytes
    std::uint8_t slots = 0;    ///< that it has, the first one included
    bool is_dir = false;
    bool in_use = true;
    std::uint64_t end() const { return offset + std::uint64_t{slots} * 32; }
};

/// The root folder's entries of bitmap and up-case table, one after the other.
struct RootTrace {
    std::uint64_t offset = 0;  ///< of the first of the two in the source
    std::uint32_t bitmap_cluster = 0, up_case_cluster = 0;
    std::uint64_t bitmap_length = 0;  ///< bytes
};

/// Trace::kind of each of them.
constexpr std::uint32_t set_trace = 1;
constexpr std::uint32_t root_trace = 2;
constexpr std::uint32_t up_case_trace = 3;   ///< of an up-case table, which begins 0, 1, 2, ...
constexpr std::uint32_t table_trace = 4;     ///< of a stretch of a FAT (clusters/fat_stretch.hpp)
constexpr std::uint32_t fat_head_trace = 5;  ///< of the first sector of a FAT (section 4.1)

Trace trace_of(const SetTrace& set);
SetTrace set_of(const Trace& trace);
Trace trace_of(const RootTrace& root);
RootTrace root_of(const Trace& trace);

/// Reports what starts in the owned part of `buffer`.
void find_traces(const SweepBuffer& buffer, TraceSink& sink);

}  // namespace undershelf::exfat
