#include "support/disk_image.hpp"

#include <algorithm>
#include <cstring>

#include "base/crc32.hpp"

namespace undershelf::test {

void put_number(ByteVector& bytes, std::size_t at, std::uint64_t value, int size, bool big_endian) {
    for (int i = 0; i < size; ++i)
        bytes[at + static_cast<std::size_t>(big_endian ? size - 1 - i : i)] =
            static_cast<std::uint8_t>(i < 8 ? value >> 8 * i : 0);
}

void put_mbr_entry(ByteVector& disk, std::size_t sector, int index, std::uint8_t type, std::uint32_t first,
                   std::uint32_t count) {
    const auto at = sector + 446 + static_cast<std::size_t>(index) * 16;
    disk[at + 4] = type;
    put_number(disk, at + 8, first, 4);
    put_number(disk, at + 12, count, 4);
    put_number(disk, sector + 510, 0xAA55, 2);
}

void put_gpt(ByteVector& disk, const std::vector<GptPartition>& partitions, std::uint32_t sector_size) {
    const auto sectors = disk.size() / sector_size;
    put_mbr_entry(disk, 0, 0, 0xEE, 1, static_cast<std::uint32_t>(sectors - 1));
    ByteVector array(128 * 128);
    for (std::size_t i = 0; i < partitions.size(); ++i) {
        static constexpr std::uint8_t basic_data[16] = {0xA2, 0xA0, 0xD0, 0xEB, 0xE5, 0xB9, 0x33, 0x44,
                                                        0x87, 0xC0, 0x68, 0xB6, 0xB7, 0x26, 0x99, 0xC7};
        std::copy_n(basic_data, 16, array.begin() + static_cast<std::ptrdiff_t>(i * 128));
        array[i * 128 + 16] = static_cast<std::uint8_t>(i + 1);
        put_number(array, i * 128 + 32, partitions[i].first, 8);
        put_number(array, i * 128 + 40, partitions[i].last, 8);
        for (std::size_t c = 0; c < partitions[i].name.size(); ++c)
            put_number(array, i * 128 + 56 + c * 2, partitions[i].name[c], 2);
    }
    const auto array_sectors = array.size() / sector_size;
    const auto write = [&](std::uint64_t at, std::uint64_t other, std::uint64_t array_at) {
        ByteVector h(92);
        std::memcpy(h.data(), "EFI PART\0\0\1\0", 12);
        put_number(h, 12, 92, 4);
        put_number(h, 24, at, 8);
        put_number(h, 32, other, 8);
        put_number(h, 72, array_at, 8);
        put_number(h, 80, 128, 4);
        put_number(h, 84, 128, 4);
        put_number(h, 88, crc32_of(array), 4);
        put_number(h, 16, crc32_of(h), 4);
        std::copy(h.begin(), h.end(), disk.begin() + static_cast<std::ptrdiff_t>(at * sector_size));
        std::copy(array.begin(), array.end(),
                  disk.begin() + static_cast<std::ptrdiff_t>(array_at * sector_size));
    };
    write(1, sectors - 1, 2);
    write(sectors - 1, 1, sectors - 1 - array_sectors);
}

void put_apple_map(ByteVector& disk, const std::vector<ApplePartition>& partitions) {
    put_number(disk, 0, 0x4552, 2, true);
    put_number(disk, 2, 512, 2, true);
    for (std::size_t i = 0; i < partitions.size(); ++i) {
        const auto at = (i + 1) * 512;
        put_number(disk, at, 0x504D, 2, true);
        put_number(disk, at + 4, partitions.size(), 4, true);
        put_number(disk, at + 8, partitions[i].first, 4, true);
        put_number(disk, at + 12, partitions[i].count, 4, true);
        std::memcpy(disk.data() + at + 16, partitions[i].name.data(), partitions[i].name.size());
        std::memcpy(disk.data() + at + 48, partitions[i].type.data(), partitions[i].type.size());
    }
}

void put_volume(ByteVector& disk, std::size_t offset, Bytes volume) {
    if (disk.size() < offset + volume.size()) disk.resize(offset + volume.size());
    std::copy(volume.begin(), volume.end(), disk.begin() + static_cast<std::ptrdiff_t>(offset));
}

}  // namespace undershelf::test
