#pragma once
// On-disk structures of exFAT, in the names of Microsoft's "exFAT file system specification". Little-endian.

#include <boost/endian/buffers.hpp>
#include <cstdint>

namespace undershelf::exfat {

using boost::endian::little_uint16_buf_t;
using boost::endian::little_uint32_buf_t;
using boost::endian::little_uint64_buf_t;

/// Section 3.1: main and backup boot sector.
struct BootSector {
    std::uint8_t JumpBoot[3];
    std::uint8_t FileSystemName[8];
    std::uint8_t MustBeZero[53];
    little_uint64_buf_t PartitionOffset;
    little_uint64_buf_t VolumeLength;
    little_uint32_buf_t FatOffset;
    little_uint32_buf_t FatLength;
    little_uint32_buf_t ClusterHeapOffset;
    little_uint32_buf_t ClusterCount;
    little_uint32_buf_t FirstClusterOfRootDirectory;
    little_uint32_buf_t VolumeSerialNumber;
    little_uint16_buf_t FileSystemRevision;
    little_uint16_buf_t VolumeFlags;
    std::uint8_t BytesPerSectorShift;
    std::uint8_t SectorsPerClusterShift;
    std::uint8_t NumberOfFats;
    std::uint8_t DriveSelect;
    std::uint8_t PercentInUse;
    std::uint8_t Reserved[7];
    std::uint8_t BootCode[390];
    little_uint16_buf_t BootSignature;
};
static_assert(sizeof(BootSector) == 512);

constexpr std::uint32_t boot_region_sectors = 12;

/// Section 7.1: allocation bitmap entry, 0x81.
struct BitmapEntry {
    std::uint8_t EntryType;
    std::uint8_t BitmapFlags;
    std::uint8_t Reserved[18];
    little_uint32_buf_t FirstCluster;
    little_uint64_buf_t DataLength;
};
static_assert(sizeof(BitmapEntry) == 32);

/// Section 7.3: volume label entry, 0x83.
struct LabelEntry {
    std::uint8_t EntryType;
    std::uint8_t CharacterCount;
    little_uint16_buf_t VolumeLabel[11];
    std::uint8_t Reserved[8];
};
static_assert(sizeof(LabelEntry) == 32);

}  // namespace undershelf::exfat
