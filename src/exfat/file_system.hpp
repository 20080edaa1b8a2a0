#pragma once
// exFAT behind the common interface: volumes are recognised and described, not yet scanned.

#include "volume/file_system.hpp"

namespace undershelf::exfat {

const FileSystem& file_system();

}  // namespace undershelf::exfat
