#pragma once
// NTFS volumes without a boot sector from traces. A file record tells the clusters of its content by numbers;
// cluster x is at V + x * S. Index blocks, which name the folder they belong to, are held against the
// run lists of these folders, and contents against names: the volume start V and cluster size S on which
// they agree are taken. The geometries of present volumes are tested first.

#include "volume/file_system.hpp"

namespace undershelf::ntfs {

std::vector<Recognition> settle(const Settling& settling, const Progress& progress);

}  // namespace undershelf::ntfs
