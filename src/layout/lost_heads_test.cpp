#include "layout/lost_heads.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cstring>

#include "base/units.hpp"
#include "support/disk_image.hpp"
#include "support/fat_image.hpp"
#include "support/heads.hpp"
#include "support/memory_device.hpp"
#include "systems/file_systems.hpp"

namespace undershelf {

namespace {
using ::testing::Contains;
using ::testing::HasSubstr;

std::vector<HeadTrace> heads_of(const ByteVector& disk) {
    return find_heads({disk, 0, disk.size()}, file_systems());
}

LostVolumes settle(const ByteVector& disk, RangeSet taken = {}) {
    return volumes_at_heads(*test::memory_source(disk), file_systems(), heads_of(disk), taken, {},
                            Progress());
}

/// `part` copied into the free clusters of a volume, from cluster 100 on: what an image stored there looks
/// like.
void store(test::FatImage& volume, const ByteVector& part) {
    std::copy(part.begin(), part.end(),
              volume.bytes().begin() + static_cast<std::ptrdiff_t>(volume.cluster_offset(100)));
}
}  // namespace

TEST(LostHeads, AreFoundAtEverySector) {
    ByteVector disk(20 * mebibyte);
    test::FatImage fat;
    test::put_volume(disk, 7 * 512, fat.bytes());
    test::put_volume(disk, 5 * mebibyte + 512, test::exfat_head());
    test::put_volume(disk, 10 * mebibyte + 3 * 512, test::ntfs_head());
    test::put_volume(disk, 15 * mebibyte + 5 * 512, test::hfsplus_head());
    const auto found = settle(disk);
    std::vector<std::pair<std::string, std::uint64_t>> seen;
    for (const auto& r : found.volumes) seen.emplace_back(r.volume.file_system, r.volume.offset);
    EXPECT_THAT(seen, ::testing::UnorderedElementsAre(std::pair{"FAT32", 7 * 512},
                                                      std::pair{"exFAT", 5 * mebibyte + 512},
                                                      std::pair{"NTFS", 10 * mebibyte + 3 * 512},
                                                      std::pair{"HFS+", 15 * mebibyte + 5 * 512}));
    EXPECT_TRUE(found.remarks.empty());
}

TEST(LostHeads, AreToldByTheirCopies) {
    auto ntfs = test::ntfs_head();
    std::fill_n(ntfs.begin(), 512, 0);
    ByteVector disk(8 * mebibyte);
    test::put_volume(disk, 3 * 512, ntfs);
    const auto found = settle(disk);
    ASSERT_EQ(found.volumes.size(), 1u);
    EXPECT_EQ(found.volumes[0].volume.offset, 3u * 512);
    EXPECT_EQ(found.volumes[0].volume.found_by, "copy of its boot sector");
}

TEST(LostHeads, AnImageInAVolumeIsItsContent) {
    test::FatImage inner({.clusters = 500}), outer({.clusters = 4000});
    store(outer, inner.bytes());
    ByteVector disk(4 * mebibyte);
    test::put_volume(disk, 512, outer.bytes());
    const auto found = settle(disk);
    ASSERT_EQ(found.volumes.size(), 1u);
    EXPECT_EQ(found.volumes[0].volume.offset, 512u);
    EXPECT_THAT(found.remarks, Contains(HasSubstr("lies in the FAT32 volume at 512")));
    // So it is when the one around it is known already.
    EXPECT_TRUE(settle(disk, RangeSet({{512, outer.bytes().size()}})).volumes.empty());
}

TEST(LostHeads, AHeadWithoutItsTablesIsNone) {
    test::FatImage fat;
    ByteVector disk(4 * mebibyte);
    // Boot sector and copy alone, and one that points far outside.
    std::copy_n(fat.bytes().begin(), 10 * 512, disk.begin() + 3 * 512);
    EXPECT_EQ(heads_of(disk).size(), 2u);
    EXPECT_TRUE(settle(disk).volumes.empty());
    std::copy_n(fat.bytes().begin(), 512, disk.end() - 512);
    EXPECT_TRUE(settle(disk).volumes.empty());
}

TEST(LostHeads, BelongToTheBufferThatOwnsThem) {
    test::FatImage fat;
    ByteVector bytes(4096);
    std::copy_n(fat.bytes().begin(), 512, bytes.begin() + 2048);
    EXPECT_EQ(find_heads({bytes, 1000 * 512, 2048}, file_systems()).size(), 0u);
    const auto found = find_heads({bytes, 1000 * 512, 2560}, file_systems());
    ASSERT_EQ(found.size(), 1u);
    EXPECT_EQ(found[0].offset, 1000u * 512 + 2048);
}

TEST(LostHeads, ASourceOfNothingElseIsBounded) {
    HeadList list;
    for (std::uint64_t i = 0; i < 1000; ++i) list.add({i * 512, 7});
    EXPECT_EQ(list.heads().size(), 64u);
    for (std::uint64_t i = 0; i < 200'000; ++i) list.add({i * 512, i + 100});
    EXPECT_EQ(list.heads().size(), 65536u);
    EXPECT_EQ(list.left_out(), 201'000u - 65536);

    test::FatImage fat;
    ByteVector disk(2 * mebibyte);
    for (std::size_t at = 0; at < disk.size(); at += 512)
        std::copy_n(fat.bytes().begin(), 512, disk.begin() + static_cast<std::ptrdiff_t>(at));
    EXPECT_LE(settle(disk).volumes.size(), 256u);
}

}  // namespace undershelf
