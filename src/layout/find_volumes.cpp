#include "layout/find_volumes.hpp"

#include <algorithm>

namespace undershelf {

namespace {

/// The best supported volume whose head, or a copy of whose head, stands at the start of a stretch.
std::optional<Recognition> recognise_at(const Source& source, std::uint64_t offset,
                                        const std::vector<const FileSystem*>& file_systems) {
    std::optional<Recognition> best;
    for (const auto* fs : file_systems) {
        auto r = fs->recognise(source, offset);
        if (r && (!best || r->volume.support > best->volume.support)) best = std::move(r);
    }
    return best;
}

}  // namespace

SourceLayout find_volumes(const Source& source, const std::vector<const FileSystem*>& file_systems) {
    SourceLayout out;
    // A volume at byte 0 is a source without a map; its boot code may look like one.
    if (auto whole = recognise_at(source, 0, file_systems)) {
        out.volumes.push_back(std::move(*whole));
    } else {
        out.map = read_partition_map(source);
        if (out.map) {
            for (const auto& p : out.map->partitions) {
                if (auto found = recognise_at(source, p.offset, file_systems))
                    out.volumes.push_back(std::move(*found));
            }
        }
    }
    std::sort(out.volumes.begin(), out.volumes.end(),
              [](const Recognition& a, const Recognition& b) { return a.volume.offset < b.volume.offset; });
    int number = 0;
    for (auto& r : out.volumes) r.volume.number = ++number;
    return out;
}

std::optional<PartitionMap> read_partition_map(const Source& source) {
    return read_mbr(source, source.sector_size());
}

}  // namespace undershelf
