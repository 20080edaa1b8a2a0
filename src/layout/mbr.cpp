// Master boot record: four primary partitions, and a chain of extended boot records for logical ones.

#include <fmt/format.h>

#include <algorithm>
#include <set>

#include "layout/partition_map.hpp"

namespace undershelf {

namespace {

using boost::endian::little_uint16_buf_t;
using boost::endian::little_uint32_buf_t;

struct MbrPartition {
    std::uint8_t status;
    std::uint8_t first_chs[3];
    std::uint8_t type;
    std::uint8_t last_chs[3];
    little_uint32_buf_t first_lba;
    little_uint32_buf_t sectors;
};
static_assert(sizeof(MbrPartition) == 16);

struct MbrSector {
    std::uint8_t boot_code[446];
    MbrPartition partitions[4];
    little_uint16_buf_t signature;
};
static_assert(sizeof(MbrSector) == 512);

constexpr int most_logical = 256;

bool is_extended(std::uint8_t type) {
    return type == 0x05 || type == 0x0F || type == 0x85;
}

std::string type_words(std::uint8_t type) {
    switch (type) {
        case 0x01:
            return "FAT12";
        case 0x04:
        case 0x06:
        case 0x0E:
            return "FAT16";
        case 0x0B:
        case 0x0C:
            return "FAT32";
        case 0x07:
            return "NTFS or exFAT";
        case 0x27:
            return "Windows recovery";
        case 0x82:
            return "Linux swap";
        case 0x83:
            return "Linux";
        case 0x8E:
            return "Linux LVM";
        case 0xAF:
            return "HFS or HFS+";
        case 0xEE:
            return "protective, for GPT";
        case 0xEF:
            return "EFI system";
        default:
            return is_extended(type) ? "extended" : fmt::format("0x{:02X}", type);
    }
}

std::string state_of(const Partition& p, std::uint64_t source_size) {
    if (p.size == 0) return "empty";
    if (p.offset >= source_size) return "starts after the end of the source";
    if (p.offset + p.size > source_size)
        return fmt::format("reaches {} bytes after the end of the source", p.offset + p.size - source_size);
    return "ok";
}

/// An MBR's table holds partitions that begin somewhere and statuses of 0x00 or 0x80; a boot sector's code
/// does not.
bool plausible_table(const MbrSector& sector) {
    bool any = false;
    for (const auto& p : sector.partitions) {
        if (p.status & 0x7F) return false;
        if (p.type == 0) continue;
        if (p.first_lba.value() == 0 || p.sectors.value() == 0) return false;
        any = true;
    }
    return any;
}

/// Follows the extended boot records. Each names one logical partition, relative to itself, and the next
/// record, relative to the first.
void read_logical(const Source& source, std::uint32_t sector_size, std::uint64_t first, PartitionMap& map) {
    std::set<std::uint64_t> seen;
    std::uint64_t at = first;
    for (int number = 5; number < 5 + most_logical; ++number) {
        if (!seen.insert(at).second) {
            map.condition = "damaged";
            map.remarks.push_back(fmt::format(
                "The chain of logical partitions comes back to offset {}; it is followed only that far.",
                at));
            return;
        }
        const auto record = source.read_structure<MbrSector>(at);
        if (!record || record->signature.value() != 0xAA55) {
            map.condition = "damaged";
            map.remarks.push_back(
                fmt::format("The extended boot record at offset {} cannot be {}; logical partitions after "
                            "it are not in the map.",
                            at, record ? "recognised" : "read"));
            return;
        }
        const auto& entry = record->partitions[0];
        if (entry.type != 0 && entry.sectors.value() != 0) {
            Partition p;
            p.number = number;
            p.offset = at + std::uint64_t{entry.first_lba.value()} * sector_size;
            p.size = std::uint64_t{entry.sectors.value()} * sector_size;
            p.type = type_words(entry.type);
            p.state = state_of(p, source.size());
            map.partitions.push_back(std::move(p));
        }
        const auto& next = record->partitions[1];
        if (!is_extended(next.type) || next.first_lba.value() == 0) return;
        at = first + std::uint64_t{next.first_lba.value()} * sector_size;
    }
    map.condition = "damaged";
    map.remarks.push_back(
        fmt::format("There are more than {} logical partitions; the rest is left out.", most_logical));
}

}  // namespace

std::optional<PartitionMap> read_mbr(const Source& source, std::uint32_t sector_size) {
    const auto sector = source.read_structure<MbrSector>(0);
    if (!sector || sector->signature.value() != 0xAA55 || !plausible_table(*sector)) return std::nullopt;
    PartitionMap map;
    map.scheme = "MBR";
    std::uint64_t extended = 0;
    for (int i = 0; i < 4; ++i) {
        const auto& entry = sector->partitions[i];
        if (entry.type == 0) continue;
        Partition p;
        p.number = i + 1;
        p.offset = std::uint64_t{entry.first_lba.value()} * sector_size;
        p.size = std::uint64_t{entry.sectors.value()} * sector_size;
        p.type = type_words(entry.type);
        p.state = state_of(p, source.size());
        if (is_extended(entry.type) && !extended) extended = p.offset;
        map.partitions.push_back(std::move(p));
    }
    if (extended) read_logical(source, sector_size, extended, map);
    return map;
}

}  // namespace undershelf
