#pragma once
// What an NTFS volume leaves on a source after it was formatted over: file records and index blocks.

#include "volume/trace.hpp"

namespace undershelf::ntfs {

/// Trace::kind of a file record. a: its own number or no_own_number; b: its sequence number in the low 16
/// bits, its flags in the next 16, bytes allocated to it in the next 32; data: its log sequence number, 8
/// bytes as on disk.
constexpr std::uint32_t record_trace = 1;
constexpr std::uint64_t no_own_number = ~0ull;
/// Of an index block. a: its virtual cluster number; b: the record of the folder that its first entry names
/// as its parent, with the sequence number in the high 16 bits, 0 for none; data as above.
constexpr std::uint32_t index_trace = 2;

/// Reports file records and index blocks that start at a sector in the owned part of `buffer`.
void find_traces(const SweepBuffer& buffer, TraceSink& sink);

}  // namespace undershelf::ntfs
