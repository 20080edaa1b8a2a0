#pragma once
// All file systems the program reads: one line each.

#include <vector>

#include "volume/file_system.hpp"

namespace undershelf {

const std::vector<const FileSystem*>& file_systems();
/// The reader of a volume's family, null when there is none.
const FileSystem* file_system_of(const Volume& volume);

}  // namespace undershelf
