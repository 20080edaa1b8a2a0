#pragma once
// Which volumes stand on a source, and where.

#include <vector>

#include "layout/partition_map.hpp"
#include "volume/file_system.hpp"

namespace undershelf {

struct SourceLayout {
    std::optional<PartitionMap> map;
    std::vector<Recognition> volumes;  ///< numbered from 1 in the order of their offsets
};

/// Looks at the partition map and at byte 0.
SourceLayout find_volumes(const Source& source, const std::vector<const FileSystem*>& file_systems);

}  // namespace undershelf
