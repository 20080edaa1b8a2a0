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

/// Section 7.2: up-case table entry, 0x82.
struct UpCaseEntry {
    std::uint8_t EntryType;
    std::uint8_t Reserved1[3];
    little_uint32_buf_t TableChecksum;
    std::uint8_t Reserved2[12];
    little_uint32_buf_t FirstCluster;
    little_uint64_buf_t DataLength;
};
static_assert(sizeof(UpCaseEntry) == 32);

/// Section 7.3: volume label entry, 0x83.
struct LabelEntry {
    std::uint8_t EntryType;
    std::uint8_t CharacterCount;
    little_uint16_buf_t VolumeLabel[11];
    std::uint8_t Reserved[8];
};
static_assert(sizeof(LabelEntry) == 32);

/// Section 7.4: file directory entry, 0x85.
struct FileEntry {
    std::uint8_t EntryType;
    std::uint8_t SecondaryCount;
    little_uint16_buf_t SetChecksum;
    little_uint16_buf_t FileAttributes;
    little_uint16_buf_t Reserved1;
    little_uint32_buf_t CreateTimestamp;
    little_uint32_buf_t LastModifiedTimestamp;
    little_uint32_buf_t LastAccessedTimestamp;
    std::uint8_t Create10msIncrement;
    std::uint8_t LastModified10msIncrement;
    std::uint8_t CreateUtcOffset;
    std::uint8_t LastModifiedUtcOffset;
    std::uint8_t LastAccessedUtcOffset;
    std::uint8_t Reserved2[7];
};
static_assert(sizeof(FileEntry) == 32);

/// Section 7.6: stream extension entry, 0xC0.
struct StreamExtension {
    std::uint8_t EntryType;
    std::uint8_t GeneralSecondaryFlags;
    std::uint8_t Reserved1;
    std::uint8_t NameLength;
    little_uint16_buf_t NameHash;
    little_uint16_buf_t Reserved2;
    little_uint64_buf_t ValidDataLength;
    little_uint32_buf_t Reserved3;
    little_uint32_buf_t FirstCluster;
    little_uint64_buf_t DataLength;
};
static_assert(sizeof(StreamExtension) == 32);

/// Section 7.7: file name entry, 0xC1.
struct FileNameEntry {
    std::uint8_t EntryType;
    std::uint8_t GeneralSecondaryFlags;
    little_uint16_buf_t FileName[15];
};
static_assert(sizeof(FileNameEntry) == 32);

constexpr std::uint8_t in_use_bit = 0x80;  ///< of EntryType; cleared by a delete
constexpr std::uint8_t type_bitmap = 0x81, type_up_case = 0x82, type_label = 0x83;  ///< in use
constexpr std::uint8_t type_file = 0x05;  ///< EntryType without its InUse bit
constexpr std::uint8_t type_stream = 0x40;
constexpr std::uint8_t type_name = 0x41;
constexpr std::uint8_t no_fat_chain = 0x02;  ///< in GeneralSecondaryFlags
constexpr std::uint16_t attr_directory = 0x10;

}  // namespace undershelf::exfat
