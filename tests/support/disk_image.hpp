#pragma once
// Partition maps written byte by byte, sound ones and broken ones.

#include <string>
#include <vector>

#include "base/bytes.hpp"

namespace undershelf::test {

void put_number(ByteVector& bytes, std::size_t at, std::uint64_t value, int size, bool big_endian = false);

/// Writes MBR entry `index` (0-3) into the sector at `sector_offset` and its signature. Counts are sectors of
/// 512 bytes.
void put_mbr_entry(ByteVector& disk, std::size_t sector_offset, int index, std::uint8_t type,
                   std::uint32_t first, std::uint32_t count);

struct GptPartition {
    std::uint64_t first, last;  ///< sectors
    std::u16string name;
};
/// Writes a protective MBR, both headers and both arrays.
void put_gpt(ByteVector& disk, const std::vector<GptPartition>& partitions, std::uint32_t sector_size = 512);

struct ApplePartition {
    std::uint32_t first, count;  ///< blocks of 512 bytes
    std::string name, type;
};
void put_apple_map(ByteVector& disk, const std::vector<ApplePartition>& partitions);

/// Places `volume` at `offset`; the disk grows where it must.
void put_volume(ByteVector& disk, std::size_t offset, Bytes volume);

}  // namespace undershelf::test
