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
};
static_assert(sizeof(BTHeaderRec) == 30);

constexpr std::uint16_t kHFSPlusSigWord = 0x482B;  ///< "H+"
constexpr std::uint16_t kHFSXSigWord = 0x4858;     ///< "HX"
constexpr std::uint64_t header_offset =
    1024;  ///< of the volume header, and of the alternate one from the end
constexpr std::uint32_t kHFSRootParentID = 1;
constexpr std::int8_t kBTLeafNode = -1;
constexpr std::int8_t kBTHeaderNode = 1;

}  // namespace undershelf::hfsplus
