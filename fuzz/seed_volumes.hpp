#pragma once
// Sound volumes that fuzzing starts from, made by the tests' own writers.

#include <vector>

#include "base/bytes.hpp"

namespace undershelf::fuzz {

std::vector<ByteVector> fat_volumes();
std::vector<ByteVector> exfat_volumes();
std::vector<ByteVector> ntfs_volumes();
std::vector<ByteVector> hfsplus_volumes();
/// Volumes of all kinds as a format leaves them: without heads, tables and roots.
std::vector<ByteVector> former_volumes();
/// Disks with MBR, GPT and Apple maps.
std::vector<ByteVector> disks();

}  // namespace undershelf::fuzz
