#pragma once
// What is missing where a technician tells a volume and nothing on the source tells the rest.

#include "volume/settling.hpp"

namespace undershelf::settling {

/// Throws Error(usage) where the size of its clusters is not told.
void want_cluster_size(const VolumeHint& told);
/// Throws Error(usage): nothing tells where the first cluster of that size began.
[[noreturn]] void want_data_offset(const VolumeHint& told);

}  // namespace undershelf::settling
