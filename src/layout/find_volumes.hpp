#pragma once
// Which volumes stand on a source, and where: by its partition map, by usual places where the map is damaged
// or gone, and by copies of heads where a head is gone. Reads maps, heads and copies only.

#include <vector>

#include "layout/partition_map.hpp"
#include "volume/file_system.hpp"

namespace undershelf {

struct SourceLayout {
    std::optional<PartitionMap> map;
    std::vector<Recognition> volumes;  ///< numbered from 1 in the order of their offsets; none overlap
    std::vector<std::string> remarks;  ///< sentences on what was passed over, and why
};

/// `options` say how labels are decoded.
SourceLayout find_volumes(const Source& source, const std::vector<const FileSystem*>& file_systems,
                          const ReadOptions& options = {});

}  // namespace undershelf
