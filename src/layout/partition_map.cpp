#include "layout/partition_map.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace undershelf {

namespace {

void contradict(PartitionMap& map, std::string remark) {
    if (map.condition == "ok") map.condition = "contradicts itself";
    map.remarks.push_back(std::move(remark));
}

void note_overlaps(PartitionMap& map) {
    auto sorted = map.partitions;
    std::erase_if(sorted, [](const Partition& p) { return !p.is_room(); });
    std::sort(sorted.begin(), sorted.end(),
              [](const Partition& a, const Partition& b) { return a.offset < b.offset; });
    for (std::size_t i = 1; i < sorted.size(); ++i) {
        if (sorted[i].offset < sorted[i - 1].offset + sorted[i - 1].size) {
            contradict(map,
                       fmt::format("Partitions {} and {} overlap.", sorted[i - 1].number, sorted[i].number));
        }
    }
}

void note_bounds(PartitionMap& map) {
    for (const auto& p : map.partitions) {
        if (p.state != "ok" && p.is_room())
            contradict(map, fmt::format("Partition {} {}.", p.number, p.state));
    }
}

}  // namespace

std::optional<PartitionMap> read_partition_map(const Source& source) {
    // A map counts in the sectors of the drive it was written on, which an image does not tell.
    std::vector<std::uint32_t> sizes{source.sector_size()};
    for (const std::uint32_t size : {512u, 4096u}) {
        if (size != source.sector_size()) sizes.push_back(size);
    }
    std::optional<PartitionMap> map;
    for (const auto size : sizes) {
        if (!map) map = read_gpt(source, size);
    }
    if (!map) map = read_apple_map(source);
    if (!map) map = read_mbr(source, source.sector_size());
    if (!map) return std::nullopt;
    note_bounds(*map);
    note_overlaps(*map);
    return map;
}

}  // namespace undershelf
