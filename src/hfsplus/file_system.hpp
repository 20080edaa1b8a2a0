#pragma once
// HFS+ and HFSX by the common interface.

#include "volume/file_system.hpp"

namespace undershelf::hfsplus {

const FileSystem& file_system();

}  // namespace undershelf::hfsplus
