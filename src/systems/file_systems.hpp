#pragma once
// All file systems the program reads: one line each.

#include <string_view>
#include <vector>

#include "volume/file_system.hpp"

namespace undershelf {

const std::vector<const FileSystem*>& file_systems();
/// The reader of a volume's family, null when there is none.
const FileSystem* file_system_of(const Volume& volume);
/// By the name of one of its systems; null when there is none.
const FileSystem* file_system_named(std::string_view system);
/// The names of all of them: FAT12, FAT16 ...
std::vector<std::string_view> system_names();

}  // namespace undershelf
