#pragma once
// Which volumes are on a source, and where: by its partition map, by usual places where the map is damaged
// or gone, and by copies of heads where a head is gone. Reads maps, heads and copies only.

#include <chrono>
#include <vector>

#include "layout/partition_map.hpp"
#include "volume/file_system.hpp"

namespace undershelf {

struct SourceLayout {
    std::optional<PartitionMap> map;
    std::vector<Recognition> volumes;  ///< numbered from 1 in the order of their offsets; none overlap
    std::vector<std::string> remarks;  ///< sentences on what was passed over, and why
    bool every_usual_place = true;     ///< was looked at, where no volume is; else some, all over the source

    /// Partitions for volumes, in which none was found.
    std::vector<Partition> bare_partitions() const;
};

/// How far the search goes where no map says: places near the starts of gaps are always looked at.
struct SearchLimits {
    std::size_t places = 4096;          ///< so many more
    std::chrono::milliseconds time{0};  ///< or as many as that allows; 0: however long it takes
};

/// `options` say how labels are decoded.
SourceLayout find_volumes(const Source& source, const std::vector<const FileSystem*>& file_systems,
                          const ReadOptions& options = {}, const SearchLimits& limits = {});

}  // namespace undershelf
