#pragma once
// NTFS by the common interface: the live tree, deleted records, index leftovers.

#include "volume/file_system.hpp"

namespace undershelf::ntfs {

const FileSystem& file_system();

}  // namespace undershelf::ntfs
