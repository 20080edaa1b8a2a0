#pragma once
// On-disk structures of HFS+ and HFSX, in the names of Apple's Technical Note TN1150. Big-endian.

#include <boost/endian/buffers.hpp>
#include <cstdint>

namespace undershelf::hfsplus {

using boost::endian::big_int16_buf_t;
using boost::endian::big_uint16_buf_t;
using boost::endian::big_uint32_buf_t;
using boost::endian::big_uint64_buf_t;

struct HFSPlusExtentDescriptor {
    big_uint32_buf_t startBlock;
    big_uint32_buf_t blockCount;
};

struct HFSPlusForkData {
    big_uint64_buf_t logicalSize;
    big_uint32_buf_t clumpSize;
    big_uint32_buf_t totalBlocks;
    HFSPlusExtentDescriptor extents[8];
};
static_assert(sizeof(HFSPlusForkData) == 80);

struct HFSPlusVolumeHeader {
    big_uint16_buf_t signature;
    big_uint16_buf_t version;
    big_uint32_buf_t attributes;
    big_uint32_buf_t lastMountedVersion;
    big_uint32_buf_t journalInfoBlock;
    big_uint32_buf_t createDate;
    big_uint32_buf_t modifyDate;
    big_uint32_buf_t backupDate;
    big_uint32_buf_t checkedDate;
    big_uint32_buf_t fileCount;
    big_uint32_buf_t folderCount;
    big_uint32_buf_t blockSize;
    big_uint32_buf_t totalBlocks;
    big_uint32_buf_t freeBlocks;
    big_uint32_buf_t nextAllocation;
    big_uint32_buf_t rsrcClumpSize;
    big_uint32_buf_t dataClumpSize;
    big_uint32_buf_t nextCatalogID;
    big_uint32_buf_t writeCount;
    big_uint64_buf_t encodingsBitmap;
    std::uint8_t finderInfo[32];
    HFSPlusForkData allocationFile;
    HFSPlusForkData extentsFile;
    HFSPlusForkData catalogFile;
    HFSPlusForkData attributesFile;
    HFSPlusForkData startupFile;
};
static_assert(sizeof(HFSPlusVolumeHeader) == 512);

struct BTNodeDescriptor {
    big_uint32_buf_t fLink;
    big_uint32_buf_t bLink;
    std::int8_t kind;
    std::uint8_t height;
    big_uint16_buf_t numRecords;
    big_uint16_buf_t reserved;
};
static_assert(sizeof(BTNodeDescriptor) == 14);

struct BTHeaderRec {
    big_uint16_buf_t treeDepth;
    big_uint32_buf_t rootNode;
    big_uint32_buf_t leafRecords;
    big_uint32_buf_t firstLeafNode;
    big_uint32_buf_t lastLeafNode;
    big_uint16_buf_t nodeSize;
    big_uint16_buf_t maxKeyLength;
    big_uint32_buf_t totalNodes;
    big_uint32_buf_t freeNodes;
    big_uint16_buf_t reserved1;
    big_uint32_buf_t clumpSize;
    std::uint8_t btreeType;
    std::uint8_t keyCompareType;
    big_uint32_buf_t attributes;
};
static_assert(sizeof(BTHeaderRec) == 42);

/// Keys begin with their own length, these two bytes not counted. The name of a catalogue key follows: its
/// length in units, then big-endian UTF-16.
struct HFSPlusCatalogKey {
    big_uint16_buf_t keyLength;
    big_uint32_buf_t parentID;
    big_uint16_buf_t nodeNameLength;
};
static_assert(sizeof(HFSPlusCatalogKey) == 8);

struct HFSPlusBSDInfo {
    big_uint32_buf_t ownerID;
    big_uint32_buf_t groupID;
    std::uint8_t adminFlags;
    std::uint8_t ownerFlags;
    big_uint16_buf_t fileMode;
    big_uint32_buf_t special;  ///< iNodeNum, linkCount or rawDevice
};
static_assert(sizeof(HFSPlusBSDInfo) == 16);

/// What folder and file records begin with.
struct HFSPlusCatalogHead {
    big_uint16_buf_t recordType;
    big_uint16_buf_t flags;
    big_uint32_buf_t valence;  ///< folders; reserved for files
    big_uint32_buf_t id;       ///< folderID or fileID
    big_uint32_buf_t createDate;
    big_uint32_buf_t contentModDate;
    big_uint32_buf_t attributeModDate;
    big_uint32_buf_t accessDate;
    big_uint32_buf_t backupDate;
    HFSPlusBSDInfo permissions;
    std::uint8_t userInfo[16];
    std::uint8_t finderInfo[16];
    big_uint32_buf_t textEncoding;
    big_uint32_buf_t reserved;
};
static_assert(sizeof(HFSPlusCatalogHead) == 88);

struct HFSPlusCatalogFile {
    HFSPlusCatalogHead head;
    HFSPlusForkData dataFork;
    HFSPlusForkData resourceFork;
};
static_assert(sizeof(HFSPlusCatalogFile) == 248);

/// The name follows as in a key.
struct HFSPlusCatalogThread {
    big_uint16_buf_t recordType;
    big_uint16_buf_t reserved;
    big_uint32_buf_t parentID;
    big_uint16_buf_t nodeNameLength;
};
static_assert(sizeof(HFSPlusCatalogThread) == 10);

struct HFSPlusExtentRecord {
    big_uint16_buf_t keyLength;  ///< 10
    std::uint8_t forkType;       ///< 0 data, 0xFF resource
    std::uint8_t pad;
    big_uint32_buf_t fileID;
    big_uint32_buf_t startBlock;
    HFSPlusExtentDescriptor extents[8];
};
static_assert(sizeof(HFSPlusExtentRecord) == 76);

/// The name follows, then the record.
struct HFSPlusAttrKey {
    big_uint16_buf_t keyLength;
    big_uint16_buf_t pad;
    big_uint32_buf_t fileID;
    big_uint32_buf_t startBlock;
    big_uint16_buf_t attrNameLen;
};
static_assert(sizeof(HFSPlusAttrKey) == 14);

/// An attribute kept in its record; the data follows.
struct HFSPlusAttrData {
    big_uint32_buf_t recordType;
    big_uint32_buf_t reserved[2];
    big_uint32_buf_t attrSize;
};
static_assert(sizeof(HFSPlusAttrData) == 16);

struct HFSPlusAttrForkData {
    big_uint32_buf_t recordType;
    big_uint32_buf_t reserved;
    HFSPlusForkData theFork;
};
static_assert(sizeof(HFSPlusAttrForkData) == 88);

struct JournalInfoBlock {
    big_uint32_buf_t flags;
    big_uint32_buf_t device_signature[8];
    big_uint64_buf_t offset;  ///< bytes from the volume's start
    big_uint64_buf_t size;
};
static_assert(sizeof(JournalInfoBlock) == 52);

/// Head of com.apple.decmpfs. Little-endian.
struct DecmpfsHeader {
    std::uint8_t magic[4];  ///< "fpmc"
    boost::endian::little_uint32_buf_t type;
    boost::endian::little_uint64_buf_t size;
};
static_assert(sizeof(DecmpfsHeader) == 16);

/// Head of the master directory block of an HFS volume, as far as it tells of an embedded HFS+ volume.
struct MasterDirectoryBlock {
    big_uint16_buf_t drSigWord;
    std::uint8_t before[18];
    big_uint32_buf_t drAlBlkSiz;
    big_uint32_buf_t drClpSiz;
    big_uint16_buf_t drAlBlSt;  ///< sectors of 512 bytes
    std::uint8_t between[94];
    big_uint16_buf_t drEmbedSigWord;
    big_uint16_buf_t drEmbedStartBlock;
    big_uint16_buf_t drEmbedBlockCount;
};
static_assert(sizeof(MasterDirectoryBlock) == 130);

constexpr std::uint16_t kHFSSigWord = 0x4244;  ///< "BD"

constexpr std::uint16_t kHFSPlusSigWord = 0x482B;  ///< "H+"
constexpr std::uint16_t kHFSXSigWord = 0x4858;     ///< "HX"
constexpr std::uint64_t header_offset =
    1024;  ///< of the volume header, and of the alternate one from the end
constexpr std::uint32_t kHFSRootParentID = 1;
constexpr std::uint32_t kHFSRootFolderID = 2;
constexpr std::uint32_t kHFSExtentsFileID = 3;
constexpr std::uint32_t kHFSCatalogFileID = 4;
constexpr std::uint32_t kHFSAllocationFileID = 6;
constexpr std::uint32_t kHFSAttributesFileID = 8;
constexpr std::uint32_t kHFSFirstUserCatalogNodeID = 16;
constexpr std::int8_t kBTLeafNode = -1;
constexpr std::int8_t kBTIndexNode = 0;
constexpr std::int8_t kBTHeaderNode = 1;
constexpr std::int8_t kBTMapNode = 2;
constexpr std::uint16_t kHFSPlusFolderRecord = 1;
constexpr std::uint16_t kHFSPlusFileRecord = 2;
constexpr std::uint16_t kHFSPlusFolderThreadRecord = 3;
constexpr std::uint16_t kHFSPlusFileThreadRecord = 4;
constexpr std::uint32_t kHFSPlusAttrInlineData = 0x10;
constexpr std::uint32_t kHFSPlusAttrForkData = 0x20;
constexpr std::uint32_t kHFSVolumeJournaledMask = 1u << 13;
constexpr std::uint32_t kHFSCatalogNodeIDsReusedMask = 1u << 12;

}  // namespace undershelf::hfsplus
