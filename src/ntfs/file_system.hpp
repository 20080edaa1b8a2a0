#pragma once
// NTFS behind the common interface: volumes are recognised and described, not yet scanned.

#include "volume/file_system.hpp"

namespace undershelf::ntfs {

const FileSystem& file_system();

}  // namespace undershelf::ntfs
