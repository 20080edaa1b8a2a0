#pragma once
// FAT12, FAT16 and FAT32 by the common interface.

#include "volume/file_system.hpp"

namespace undershelf::fat {

const FileSystem& file_system();

}  // namespace undershelf::fat
