#pragma once
// On-disk structures of FAT12, FAT16 and FAT32, in the names of Microsoft's "FAT File System Specification"
// (section numbers of the 2005 edition) and, for FAT12/16, ECMA-107. All fields are little-endian.

#include <boost/endian/buffers.hpp>
#include <cstdint>

namespace undershelf::fat {

using boost::endian::little_uint16_buf_t;
using boost::endian::little_uint32_buf_t;

/// Section 3.1: the boot sector and its BIOS parameter block, common part.
struct BootSector {
    std::uint8_t BS_jmpBoot[3];
    std::uint8_t BS_OEMName[8];
    little_uint16_buf_t BPB_BytsPerSec;
    std::uint8_t BPB_SecPerClus;
    little_uint16_buf_t BPB_RsvdSecCnt;
    std::uint8_t BPB_NumFATs;
    little_uint16_buf_t BPB_RootEntCnt;
    little_uint16_buf_t BPB_TotSec16;
    std::uint8_t BPB_Media;
    little_uint16_buf_t BPB_FATSz16;
    little_uint16_buf_t BPB_SecPerTrk;
    little_uint16_buf_t BPB_NumHeads;
    little_uint32_buf_t BPB_HiddSec;
    little_uint32_buf_t BPB_TotSec32;
    union Extension {
        /// Section 3.2: FAT12 and FAT16.
        struct Fat16 {
            std::uint8_t BS_DrvNum;
            std::uint8_t BS_Reserved1;
            std::uint8_t BS_BootSig;
            little_uint32_buf_t BS_VolID;
            std::uint8_t BS_VolLab[11];
            std::uint8_t BS_FilSysType[8];
            std::uint8_t BS_BootCode[448];
        } fat16;
        /// Section 3.3: FAT32.
        struct Fat32 {
            little_uint32_buf_t BPB_FATSz32;
            little_uint16_buf_t BPB_ExtFlags;
            little_uint16_buf_t BPB_FSVer;
            little_uint32_buf_t BPB_RootClus;
            little_uint16_buf_t BPB_FSInfo;
            little_uint16_buf_t BPB_BkBootSec;
            std::uint8_t BPB_Reserved[12];
            std::uint8_t BS_DrvNum;
            std::uint8_t BS_Reserved1;
            std::uint8_t BS_BootSig;
            little_uint32_buf_t BS_VolID;
            std::uint8_t BS_VolLab[11];
            std::uint8_t BS_FilSysType[8];
            std::uint8_t BS_BootCode32[420];
        } fat32;
    } ext;
    little_uint16_buf_t Signature_word;
};
static_assert(sizeof(BootSector) == 512);

/// Section 6: directory entry.
struct DirEntry {
    std::uint8_t DIR_Name[11];
    std::uint8_t DIR_Attr;
    std::uint8_t DIR_NTRes;
    std::uint8_t DIR_CrtTimeTenth;
    little_uint16_buf_t DIR_CrtTime;
    little_uint16_buf_t DIR_CrtDate;
    little_uint16_buf_t DIR_LstAccDate;
    little_uint16_buf_t DIR_FstClusHI;
    little_uint16_buf_t DIR_WrtTime;
    little_uint16_buf_t DIR_WrtDate;
    little_uint16_buf_t DIR_FstClusLO;
    little_uint32_buf_t DIR_FileSize;
};
static_assert(sizeof(DirEntry) == 32);

/// Section 7: long name directory entry.
struct LongNameEntry {
    std::uint8_t LDIR_Ord;
    little_uint16_buf_t LDIR_Name1[5];
    std::uint8_t LDIR_Attr;
    std::uint8_t LDIR_Type;
    std::uint8_t LDIR_Chksum;
    little_uint16_buf_t LDIR_Name2[6];
    little_uint16_buf_t LDIR_FstClusLO;
    little_uint16_buf_t LDIR_Name3[2];
};
static_assert(sizeof(LongNameEntry) == 32);

constexpr std::size_t slot_size = 32;
constexpr std::uint8_t slot_erased = 0xE5;  ///< first byte of a deleted slot
constexpr std::uint8_t slot_end = 0x00;     ///< first byte of the end mark
constexpr std::uint8_t kanji_e5 = 0x05;     ///< stands for a first letter 0xE5
constexpr std::uint8_t ATTR_VOLUME_ID = 0x08;
constexpr std::uint8_t ATTR_DIRECTORY = 0x10;
constexpr std::uint8_t ATTR_LONG_NAME = 0x0F;
constexpr std::uint8_t ATTR_LONG_NAME_MASK = 0x3F;
constexpr std::uint8_t LAST_LONG_ENTRY = 0x40;
constexpr std::uint8_t case_lower_base = 0x08;  ///< in DIR_NTRes
constexpr std::uint8_t case_lower_ext = 0x10;   ///< in DIR_NTRes

}  // namespace undershelf::fat
