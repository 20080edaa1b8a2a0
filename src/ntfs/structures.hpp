#pragma once
// On-disk structures of NTFS, in the names that the Linux kernel's ntfs3 documentation and sources share.
// Little-endian.

#include <boost/endian/buffers.hpp>
#include <cstdint>

namespace undershelf::ntfs {

using boost::endian::little_uint16_buf_t;
using boost::endian::little_uint32_buf_t;
using boost::endian::little_uint64_buf_t;

struct BootSector {
    std::uint8_t jump_code[3];
    std::uint8_t system_id[8];  ///< "NTFS    "
    little_uint16_buf_t bytes_per_sector;
    std::uint8_t sectors_per_clusters;  ///< above 0x80: 2 to the power of 256 minus it
    std::uint8_t unused1[7];
    std::uint8_t media_type;
    std::uint8_t unused2[2];
    little_uint16_buf_t sct_per_track;
    little_uint16_buf_t heads;
    little_uint32_buf_t hidden_sectors;
    std::uint8_t unused3[8];
    little_uint64_buf_t sectors_per_volume;
    little_uint64_buf_t mft_clst;
    little_uint64_buf_t mft2_clst;
    std::int8_t record_size;  ///< clusters, or minus the power of two of bytes
    std::uint8_t unused4[3];
    std::int8_t index_size;
    std::uint8_t unused5[3];
    little_uint64_buf_t serial_num;
    little_uint32_buf_t check_sum;
    std::uint8_t boot_code[426];
    little_uint16_buf_t boot_magic;
};
static_assert(sizeof(BootSector) == 512);

/// Head of every file record.
struct FileRecord {
    std::uint8_t sign[4];  ///< "FILE"
    little_uint16_buf_t fix_off;
    little_uint16_buf_t fix_num;
    little_uint64_buf_t lsn;
    little_uint16_buf_t seq;
    little_uint16_buf_t hard_links;
    little_uint16_buf_t attr_off;
    little_uint16_buf_t flags;
    little_uint32_buf_t used;
    little_uint32_buf_t total;
    little_uint64_buf_t parent_ref;
    little_uint16_buf_t next_attr_id;
};
static_assert(sizeof(FileRecord) == 42);
/// Where a record's own number is, four bytes; in the newer form of the head only.
constexpr std::size_t own_number_at = 44;

/// Head of every attribute, and of its two forms.
struct AttributeHead {
    little_uint32_buf_t type;
    little_uint32_buf_t size;
    std::uint8_t non_res;
    std::uint8_t name_len;
    little_uint16_buf_t name_off;
    little_uint16_buf_t flags;
    little_uint16_buf_t id;
};
static_assert(sizeof(AttributeHead) == 16);

struct ResidentHead {
    AttributeHead head;
    little_uint32_buf_t data_size;
    little_uint16_buf_t data_off;
    std::uint8_t flags;
    std::uint8_t res;
};
static_assert(sizeof(ResidentHead) == 24);

struct NonResidentHead {
    AttributeHead head;
    little_uint64_buf_t svcn;
    little_uint64_buf_t evcn;
    little_uint16_buf_t run_off;
    std::uint8_t c_unit;
    std::uint8_t res1[5];
    little_uint64_buf_t alloc_size;
    little_uint64_buf_t data_size;
    little_uint64_buf_t valid_size;
};
static_assert(sizeof(NonResidentHead) == 64);

/// $STANDARD_INFORMATION, first part. Times are 100 ns since 1601 UTC.
struct StandardInformation {
    little_uint64_buf_t cr_time;
    little_uint64_buf_t m_time;
    little_uint64_buf_t c_time;
    little_uint64_buf_t a_time;
    little_uint32_buf_t fa;
};
static_assert(sizeof(StandardInformation) == 36);

/// $FILE_NAME; the name follows, `name_len` UTF-16 units.
struct FileName {
    little_uint64_buf_t home;  ///< parent: 48 bits of record number, 16 of sequence
    little_uint64_buf_t cr_time;
    little_uint64_buf_t m_time;
    little_uint64_buf_t c_time;
    little_uint64_buf_t a_time;
    little_uint64_buf_t alloc_size;
    little_uint64_buf_t data_size;
    little_uint32_buf_t fa;
    little_uint32_buf_t extend_data;
    std::uint8_t name_len;
    std::uint8_t type;
};
static_assert(sizeof(FileName) == 66);

/// $ATTRIBUTE_LIST entry.
struct ListEntry {
    little_uint32_buf_t type;
    little_uint16_buf_t size;
    std::uint8_t name_len;
    std::uint8_t name_off;
    little_uint64_buf_t vcn;
    little_uint64_buf_t ref;
    little_uint16_buf_t id;
};
static_assert(sizeof(ListEntry) == 26);

/// Entry of an $I30 index; a $FILE_NAME follows where `key_size` says so.
struct IndexEntry {
    little_uint64_buf_t ref;
    little_uint16_buf_t size;
    little_uint16_buf_t key_size;
    little_uint16_buf_t flags;
    little_uint16_buf_t pad;
};
static_assert(sizeof(IndexEntry) == 16);

/// Record of the change journal, versions 2 and 3, which differ in the width of the two references;
/// [MS-FSCC], reply of FSCTL_READ_FILE_USN_DATA. The name is `FileNameOffset` bytes after the record's
/// start.
struct UsnRecordHead {
    little_uint32_buf_t RecordLength;
    little_uint16_buf_t MajorVersion;
    little_uint16_buf_t MinorVersion;
};
static_assert(sizeof(UsnRecordHead) == 8);
template <int width>
struct UsnRecord {
    UsnRecordHead head;
    little_uint64_buf_t FileReferenceNumber[width];
    little_uint64_buf_t ParentFileReferenceNumber[width];
    little_uint64_buf_t Usn;
    little_uint64_buf_t TimeStamp;
    little_uint32_buf_t Reason;
    little_uint32_buf_t SourceInfo;
    little_uint32_buf_t SecurityId;
    little_uint32_buf_t FileAttributes;
    little_uint16_buf_t FileNameLength;  ///< bytes
    little_uint16_buf_t FileNameOffset;
};
using UsnRecordV2 = UsnRecord<1>;
using UsnRecordV3 = UsnRecord<2>;
static_assert(sizeof(UsnRecordV2) == 60 && sizeof(UsnRecordV3) == 76);
constexpr std::uint32_t USN_REASON_FILE_DELETE = 0x200;
constexpr std::uint32_t USN_REASON_RENAME_OLD_NAME = 0x1000;

/// Head of a page of $LogFile that holds log records.
struct RecordPageHeader {
    std::uint8_t sign[4];  ///< "RCRD"
    little_uint16_buf_t fix_off;
    little_uint16_buf_t fix_num;
    little_uint64_buf_t lsn;
    little_uint32_buf_t rflags;
    little_uint16_buf_t page_count;
    little_uint16_buf_t page_pos;
    little_uint16_buf_t next_record_off;
    std::uint8_t res[6];
    little_uint64_buf_t last_end_lsn;
};
static_assert(sizeof(RecordPageHeader) == 40);

/// Head of the two restart pages at the start of $LogFile.
struct RestartPageHeader {
    std::uint8_t sign[4];  ///< "RSTR"
    little_uint16_buf_t fix_off;
    little_uint16_buf_t fix_num;
    little_uint64_buf_t chkdsk_lsn;
    little_uint32_buf_t sys_page_size;
    little_uint32_buf_t page_size;
};
static_assert(sizeof(RestartPageHeader) == 24);

constexpr std::uint32_t ATTR_STD = 0x10;
constexpr std::uint32_t ATTR_LIST = 0x20;
constexpr std::uint32_t ATTR_NAME = 0x30;
constexpr std::uint32_t ATTR_ROOT = 0x90;
constexpr std::uint32_t ATTR_ALLOC = 0xA0;
constexpr std::uint32_t ATTR_REPARSE = 0xC0;
constexpr std::uint16_t RECORD_FLAG_IN_USE = 1;
constexpr std::uint16_t RECORD_FLAG_DIR = 2;
constexpr std::uint16_t ATTR_FLAG_COMPRESSED = 0x00FF;
constexpr std::uint16_t ATTR_FLAG_ENCRYPTED = 0x4000;
constexpr std::uint8_t FILE_NAME_DOS = 2;
constexpr std::uint32_t FILE_ATTRIBUTE_DIRECTORY = 0x10;
/// In `fa` of a $FILE_NAME: it names a folder.
constexpr std::uint32_t DUP_FILE_NAME_INDEX_PRESENT = 0x10000000;
constexpr std::uint64_t MFT_REC_ROOT = 5;
constexpr std::uint64_t MFT_REC_FREE = 16;  ///< records below are the file system's own
constexpr std::uint64_t MFT_REC_EXTEND = 11;
constexpr std::uint32_t ATTR_LABEL = 0x60;  ///< $VOLUME_NAME
constexpr std::uint32_t ATTR_DATA = 0x80;
constexpr std::uint32_t ATTR_END = 0xFFFFFFFF;
constexpr std::uint64_t MFT_REC_MFT = 0;
constexpr std::uint64_t MFT_REC_MIRR = 1;
constexpr std::uint64_t MFT_REC_LOG = 2;
constexpr std::uint64_t MFT_REC_VOL = 3;
constexpr std::uint64_t MFT_REC_BITMAP = 6;
constexpr std::uint64_t MFT_REC_BADCLUST = 8;

}  // namespace undershelf::ntfs
