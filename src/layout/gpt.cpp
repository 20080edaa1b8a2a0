// GUID partition table (UEFI specification, chapter 5.3): a header and an array of entries after the
// protective MBR, both with a CRC-32, and copies of both at the end of the disk.

#include <fmt/format.h>

#include <algorithm>
#include <cstring>

#include "base/crc32.hpp"
#include "base/text.hpp"
#include "layout/partition_map.hpp"

namespace undershelf {

namespace {

using boost::endian::little_uint16_buf_t;
using boost::endian::little_uint32_buf_t;
using boost::endian::little_uint64_buf_t;

struct Guid {
    std::uint8_t bytes[16];
};

/// Table 5.5 of the specification.
struct GptHeader {
    std::uint8_t Signature[8];
    little_uint32_buf_t Revision;
    little_uint32_buf_t HeaderSize;
    little_uint32_buf_t HeaderCRC32;
    little_uint32_buf_t Reserved;
    little_uint64_buf_t MyLBA;
    little_uint64_buf_t AlternateLBA;
    little_uint64_buf_t FirstUsableLBA;
    little_uint64_buf_t LastUsableLBA;
    Guid DiskGUID;
    little_uint64_buf_t PartitionEntryLBA;
    little_uint32_buf_t NumberOfPartitionEntries;
    little_uint32_buf_t SizeOfPartitionEntry;
    little_uint32_buf_t PartitionEntryArrayCRC32;
};
static_assert(sizeof(GptHeader) == 92);

/// Table 5.6.
struct GptEntry {
    Guid PartitionTypeGUID;
    Guid UniquePartitionGUID;
    little_uint64_buf_t StartingLBA;
    little_uint64_buf_t EndingLBA;
    little_uint64_buf_t Attributes;
    little_uint16_buf_t PartitionName[36];
};
static_assert(sizeof(GptEntry) == 128);

constexpr std::uint64_t most_array_bytes = 1 << 20;
constexpr std::uint64_t highest_sector = 1ull
                                         << 50;  ///< up to which bytes can be counted in sectors of any size

struct Copy {
    GptHeader header{};
    ByteVector array;
    bool signature = false, header_sound = false, array_sound = false;
    bool sound() const { return header_sound && array_sound; }
};

std::string text_of(const Guid& g) {
    const auto* b = g.bytes;
    return fmt::format(
        "{:02X}{:02X}{:02X}{:02X}-{:02X}{:02X}-{:02X}{:02X}-{:02X}{:02X}-{:02X}{:02X}{:02X}{:02X}{:02X}{:"
        "02X}",
        b[3], b[2], b[1], b[0], b[5], b[4], b[7], b[6], b[8], b[9], b[10], b[11], b[12], b[13], b[14], b[15]);
}

std::string type_words(const Guid& type) {
    static const std::pair<const char*, const char*> known[] = {
        {"EBD0A0A2-B9E5-4433-87C0-68B6B72699C7", "basic data"},
        {"C12A7328-F81F-11D2-BA4B-00A0C93EC93B", "EFI system"},
        {"E3C9E316-0B5C-4DB8-817D-F92DF00215AE", "Microsoft reserved"},
        {"DE94BBA4-06D1-4D40-A16A-BFD50179D6AC", "Windows recovery"},
        {"48465300-0000-11AA-AA11-00306543ECAC", "HFS+"},
        {"7C3457EF-0000-11AA-AA11-00306543ECAC", "APFS"},
        {"0FC63DAF-8483-4772-8E79-3D69D8477DE4", "Linux"},
        {"0657FD6D-A4AB-43C4-84E5-0933C84B4F4F", "Linux swap"},
        {"E6D6D379-F507-44C2-A23C-238F2A3DF928", "Linux LVM"},
        {"21686148-6449-6E6F-744E-656564454649", "BIOS boot"},
    };
    const auto text = text_of(type);
    for (const auto& [guid, words] : known) {
        if (text == guid) return words;
    }
    return text;
}

Copy read_copy(const Source& source, std::uint64_t at, std::uint32_t sector_size) {
    Copy out;
    const auto header = source.read_structure<GptHeader>(at);
    if (!header || std::memcmp(header->Signature, "EFI PART", 8) != 0) return out;
    out.header = *header;
    out.signature = true;
    const auto size = header->HeaderSize.value();
    if (size < sizeof(GptHeader) || size > sector_size) return out;
    auto bytes = source.read_vector({at, size});
    std::memset(bytes.data() + offsetof(GptHeader, HeaderCRC32), 0, 4);
    out.header_sound = crc32_of(bytes) == header->HeaderCRC32.value();
    const std::uint64_t entry = header->SizeOfPartitionEntry.value(),
                        count = header->NumberOfPartitionEntries.value();
    const auto array = header->PartitionEntryLBA.value();
    if (entry < sizeof(GptEntry) || entry > 4096 || count * entry > most_array_bytes ||
        array > source.size() / sector_size)
        return out;
    out.array.resize(static_cast<std::size_t>(count * entry));
    const bool readable = source.read(array * sector_size, out.array).empty();
    out.array_sound = readable && crc32_of(out.array) == header->PartitionEntryArrayCRC32.value();
    return out;
}

std::string state_of(const Partition& p, std::uint64_t source_size) {
    if (p.offset >= source_size) return "starts after the end of the source";
    if (p.offset + p.size > source_size)
        return fmt::format("reaches {} bytes after the end of the source", p.offset + p.size - source_size);
    return "ok";
}

void add_partitions(const Source& source, const Copy& copy, std::uint32_t sector_size, PartitionMap& map) {
    const std::size_t step = copy.header.SizeOfPartitionEntry.value();
    int number = 0;
    for (std::size_t at = 0; at + sizeof(GptEntry) <= copy.array.size(); at += step) {
        ++number;
        const auto entry = *load<GptEntry>(copy.array, at);
        if (all_zero(entry.PartitionTypeGUID.bytes)) continue;
        Partition p;
        p.number = number;
        p.type = type_words(entry.PartitionTypeGUID);
        std::u16string name;
        for (const auto& unit : entry.PartitionName) {
            if (unit.value() == 0) break;
            name += static_cast<char16_t>(unit.value());
        }
        p.name = utf8_from_utf16(name);
        const auto first = entry.StartingLBA.value(), last = entry.EndingLBA.value();
        if (last < first || last > highest_sector) {
            p.state = last < first ? "ends before it starts" : "ends after the end of any drive";
            map.condition = "damaged";
        } else {
            p.offset = first * sector_size;
            p.size = (last - first + 1) * sector_size;
            p.state = state_of(p, source.size());
        }
        map.partitions.push_back(std::move(p));
    }
}

}  // namespace

std::optional<PartitionMap> read_gpt(const Source& source, std::uint32_t sector_size) {
    const auto first = read_copy(source, sector_size, sector_size);
    auto end = source.size() / sector_size * sector_size;
    std::uint64_t backup_at = end >= sector_size ? end - sector_size : 0;
    if (first.sound() && first.header.AlternateLBA.value() < source.size() / sector_size)
        backup_at = first.header.AlternateLBA.value() * sector_size;
    const auto backup = read_copy(source, backup_at, sector_size);
    if (!first.signature && !backup.signature) return std::nullopt;
    PartitionMap map;
    map.scheme = "GPT";
    const auto complain = [&](const Copy& copy, const char* which) {
        if (copy.sound()) return;
        map.condition = "damaged";
        map.remarks.push_back(fmt::format(
            "The {} of the GPT {}.", which,
            !copy.signature      ? "is gone"
            : !copy.header_sound ? "fails its checksum"
                                 : "has an array of entries that fails its checksum or cannot be read"));
    };
    complain(first, "first header");
    complain(backup, "backup header");
    const auto& better = first.sound() || !backup.sound() ? first : backup;
    if (first.sound() && backup.sound() && first.array != backup.array) {
        map.condition = "contradicts itself";
        map.remarks.push_back("The two copies of the GPT name different partitions; the first one is shown.");
    }
    if (!better.sound() && better.array.empty()) {
        map.remarks.push_back("Neither copy of the GPT can be used.");
        return map;
    }
    add_partitions(source, better, sector_size, map);
    return map;
}

}  // namespace undershelf
