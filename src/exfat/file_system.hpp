#pragma once
// exFAT by the common interface.

#include "volume/file_system.hpp"

namespace undershelf::exfat {

const FileSystem& file_system();

}  // namespace undershelf::exfat
