#pragma once
// exFAT volumes without a boot region from traces. Folders do not know their own clusters here; what ties
// clusters to places are entries that name first clusters of folders, and the root folder's entry of the
// up-case table, which is known wherever it is. Each grid that these speak for is held against all sets:
// named folders must begin with sets, and files as their names say.

#include "volume/file_system.hpp"

namespace undershelf::exfat {

std::vector<Recognition> settle(const Settling& settling, const Progress& progress);

/// Throws Error(usage) where more must be said.
Recognition as_told(const VolumeHint& told, const Settling& settling);

}  // namespace undershelf::exfat
