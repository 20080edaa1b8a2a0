#pragma once
// All file systems the program reads: one line each.

#include <string_view>
#include <vector>

#include "volume/file_system.hpp"

namespace undershelf {

const std::vector<const FileSystem*>& file_systems();
/// The reader of a volume's family, null when there is none.
const FileSystem* file_system_of(const Volume& volume);
/// The one that reads the system of this name, such as FAT16; null where no file system has that name.
const FileSystem* file_system_named(std::string_view system);
/// The names of all of them: FAT12, FAT16 ...
std::vector<std::string_view> system_names();

}  // namespace undershelf
