// Apple partition map (Inside Macintosh: Devices, chapter 3): a driver descriptor in block 0 that tells the
// block size, and one entry a block after it, the map itself among them. Big-endian.

#include <fmt/format.h>

#include <algorithm>
#include <cstring>

#include "layout/partition_map.hpp"

namespace undershelf {

namespace {

using boost::endian::big_uint16_buf_t;
using boost::endian::big_uint32_buf_t;

struct DriverDescriptor {
    big_uint16_buf_t sbSig;
    big_uint16_buf_t sbBlkSize;
    big_uint32_buf_t sbBlkCount;
};
static_assert(sizeof(DriverDescriptor) == 8);

struct MapEntry {
    big_uint16_buf_t pmSig;
    big_uint16_buf_t pmSigPad;
    big_uint32_buf_t pmMapBlkCnt;
    big_uint32_buf_t pmPyPartStart;
    big_uint32_buf_t pmPartBlkCnt;
    char pmPartName[32];
    char pmPartType[32];
};
static_assert(sizeof(MapEntry) == 80);

constexpr std::uint32_t most_entries = 256;

std::string text_of(const char* bytes) {
    return {bytes, strnlen(bytes, 32)};
}

}  // namespace

std::optional<PartitionMap> read_apple_map(const Source& source) {
    const auto descriptor = source.read_structure<DriverDescriptor>(0);
    std::uint32_t block = 512;
    const bool described = descriptor && descriptor->sbSig.value() == 0x4552;
    if (described && is_power_of_two(descriptor->sbBlkSize.value()) && descriptor->sbBlkSize.value() >= 512)
        block = descriptor->sbBlkSize.value();
    const auto first = source.read_structure<MapEntry>(block);
    if (!first || first->pmSig.value() != 0x504D) return std::nullopt;
    PartitionMap map;
    map.scheme = "Apple partition map";
    if (!described) {
        map.condition = "damaged";
        map.remarks.push_back("The driver descriptor in block 0 is gone; blocks of 512 bytes are assumed.");
    }
    auto count = first->pmMapBlkCnt.value();
    if (count == 0 || count > most_entries) {
        map.condition = "damaged";
        map.remarks.push_back(
            fmt::format("The map says it has {} entries; at most {} are read.", count, most_entries));
        count = std::min(std::max(count, 1u), most_entries);
    }
    for (std::uint32_t i = 0; i < count; ++i) {
        const auto entry = source.read_structure<MapEntry>(std::uint64_t{i + 1} * block);
        if (!entry || entry->pmSig.value() != 0x504D) {
            map.condition = "damaged";
            map.remarks.push_back(fmt::format("Entry {} of the map is no entry.", i + 1));
            break;
        }
        Partition p;
        p.number = static_cast<int>(i + 1);
        p.offset = std::uint64_t{entry->pmPyPartStart.value()} * block;
        p.size = std::uint64_t{entry->pmPartBlkCnt.value()} * block;
        p.name = text_of(entry->pmPartName);
        p.type = text_of(entry->pmPartType);
        p.state = p.offset >= source.size()           ? "starts after the end of the source"
                  : p.offset + p.size > source.size() ? "reaches after the end of the source"
                                                      : "ok";
        map.partitions.push_back(std::move(p));
    }
    return map;
}

}  // namespace undershelf
