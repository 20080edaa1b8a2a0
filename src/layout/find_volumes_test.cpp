#include "layout/find_volumes.hpp"

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

SourceLayout find(const ByteVector& disk) {
    return find_volumes(*test::memory_source(disk), file_systems());
}

/// A disk of 16 MiB with FAT volumes of about 1 MiB at 1 and 4 MiB.
ByteVector disk_with_two(bool with_map) {
    ByteVector disk(16 * mebibyte);
    test::FatImage a, b;
    b.add(0, {.short_name = "SECOND     ", .attr = fat::ATTR_VOLUME_ID});
    test::put_volume(disk, mebibyte, a.bytes());
    test::put_volume(disk, 4 * mebibyte, b.bytes());
    if (with_map) {
        test::put_mbr_entry(disk, 0, 0, 0x0C, 2048, static_cast<std::uint32_t>(a.bytes().size() / 512));
        test::put_mbr_entry(disk, 0, 1, 0x07, 8192, static_cast<std::uint32_t>(b.bytes().size() / 512));
    }
    return disk;
}
}  // namespace

TEST(FindVolumes, GoesByTheMap) {
    const auto seen = find(disk_with_two(true));
    ASSERT_EQ(seen.volumes.size(), 2u);
    EXPECT_EQ(seen.volumes[0].volume.number, 1);
    EXPECT_EQ(seen.volumes[1].volume.offset, 4 * mebibyte);
    EXPECT_EQ(seen.volumes[1].volume.label, "SECOND");
    EXPECT_EQ(seen.map->partitions[0].state, "ok");
    EXPECT_THAT(seen.map->partitions[1].state, HasSubstr("holds FAT32 although"));
}

TEST(FindVolumes, FindsThemWithoutAMap) {
    const auto seen = find(disk_with_two(false));
    EXPECT_FALSE(seen.map);
    ASSERT_EQ(seen.volumes.size(), 2u);
    EXPECT_EQ(seen.volumes[0].volume.offset, mebibyte);
}

TEST(FindVolumes, FindsAHeadlessOneByItsCopy) {
    auto disk = disk_with_two(true);
    std::fill_n(disk.begin() + 4 * mebibyte, 512, 0);
    const auto seen = find(disk);
    ASSERT_EQ(seen.volumes.size(), 2u);
    EXPECT_EQ(seen.volumes[1].volume.offset, 4 * mebibyte);
    EXPECT_EQ(seen.volumes[1].volume.found_by, "backup boot sector");
    EXPECT_THAT(seen.volumes[1].remarks, Contains(HasSubstr("Its head is damaged")));
    // The same on a source without a map.
    test::FatImage whole;
    std::fill_n(whole.bytes().begin(), 512, 0);
    ASSERT_EQ(find(whole.bytes()).volumes.size(), 1u);
    EXPECT_EQ(find(whole.bytes()).volumes[0].volume.offset, 0u);
}

TEST(FindVolumes, TakesAVolumeAtByteZeroForTheWhole) {
    const test::FatImage image;
    const auto seen = find(const_cast<test::FatImage&>(image).bytes());
    ASSERT_EQ(seen.volumes.size(), 1u);
    EXPECT_FALSE(seen.map);
    EXPECT_EQ(seen.volumes[0].volume.serial, "CA4D-1E5A");
}

TEST(FindVolumes, UnderstandsSectorsOf4096Bytes) {
    ByteVector disk(8 * mebibyte);
    test::FatImage image;
    test::put_volume(disk, 3 * mebibyte, image.bytes());
    test::put_mbr_entry(disk, 0, 0, 0x0C, 3 * mebibyte / 4096,
                        static_cast<std::uint32_t>(image.bytes().size() / 4096 + 1));
    const auto seen = find(disk);
    ASSERT_EQ(seen.volumes.size(), 1u);
    EXPECT_EQ(seen.map->partitions[0].offset, 3 * mebibyte);
    EXPECT_EQ(seen.map->partitions[0].state, "ok");
}

TEST(FindVolumes, KnowsWhichPartitionsLackTheirVolume) {
    ByteVector disk(8 * mebibyte);
    test::put_mbr_entry(disk, 0, 0, 0x07, 2048, 4096);
    test::put_mbr_entry(disk, 0, 1, 0x82, 6144, 4096);
    const auto bare = find(disk).bare_partitions();
    ASSERT_EQ(bare.size(), 1u) << "a swap area has none";
    EXPECT_EQ(bare[0].offset, mebibyte);
}

TEST(FindVolumes, NamesWhatItDoesNotRead) {
    struct Case {
        const char* name;
        std::size_t at;
        const char* mark;
    };
    for (const auto& c : {Case{"APFS", 32, "NXSB"},
                          {"encrypted volume (LUKS)", 0, "LUKS\xba\xbe"},
                          {"encrypted volume (BitLocker)", 3, "-FVE-FS-"},
                          {"Linux swap", 4086, "SWAPSPACE2"},
                          {"XFS", 0, "XFSB"}}) {
        ByteVector disk(4 * mebibyte);
        test::put_mbr_entry(disk, 0, 0, 0x83, 2048, 4096);
        std::memcpy(disk.data() + mebibyte + c.at, c.mark, std::strlen(c.mark));
        const auto seen = find(disk);
        ASSERT_EQ(seen.volumes.size(), 1u) << c.name;
        EXPECT_EQ(seen.volumes[0].volume.file_system, c.name);
        EXPECT_FALSE(seen.volumes[0].volume.readable);
        EXPECT_EQ(seen.volumes[0].volume.size, 2 * mebibyte);
    }
}

TEST(FindVolumes, LooksBehindACompactDiscsImage) {
    auto disk = disk_with_two(false);
    std::fill_n(disk.begin(), 2 * mebibyte, std::uint8_t{0});
    constexpr std::size_t descriptor = 16 * 2048;
    disk[descriptor] = 1;
    std::memcpy(disk.data() + descriptor + 1, "CD001", 5);
    test::put_number(disk, descriptor + 80, 1024, 4);  // blocks
    test::put_number(disk, descriptor + 128, 2048, 2);
    const auto found = find(disk);
    ASSERT_EQ(found.volumes.size(), 2u);
    EXPECT_EQ(found.volumes[0].volume.file_system, "ISO 9660");
    EXPECT_EQ(found.volumes[0].volume.size, 2 * mebibyte);
    EXPECT_EQ(found.volumes[1].volume.offset, 4 * mebibyte);
    // One that does not tell its size goes to the end.
    test::put_number(disk, descriptor + 128, 0, 2);
    EXPECT_EQ(find(disk).volumes[0].volume.size, disk.size());
}

TEST(FindVolumes, PassesOverWhatOverlaps) {
    auto disk = disk_with_two(true);
    // A second partition that begins inside the first volume, where an old boot sector is.
    test::FatImage old;
    std::copy_n(old.bytes().begin(), 512, disk.begin() + mebibyte + 400 * 512);
    test::put_mbr_entry(disk, 0, 2, 0x0C, 2048 + 400, 1000);
    const auto seen = find(disk);
    EXPECT_EQ(seen.volumes.size(), 2u);
    EXPECT_EQ(seen.map->condition, "contradicts itself");
}

TEST(FindVolumes, LooksAllOverWhereNoMapSays) {
    ByteVector disk(200 * mebibyte);
    test::FatImage image;
    test::put_volume(disk, 170 * mebibyte, image.bytes());
    const auto seen = find(disk);
    ASSERT_EQ(seen.volumes.size(), 1u);
    EXPECT_EQ(seen.volumes[0].volume.offset, 170 * mebibyte);
    EXPECT_TRUE(seen.every_usual_place);
    // As far as it may.
    const auto source = test::memory_source(disk);
    const auto none = find_volumes(*source, file_systems(), {}, {.places = 3});
    EXPECT_TRUE(none.volumes.empty());
    EXPECT_FALSE(none.every_usual_place);
    // The roundest places come first: 128 MiB, then 64 and 192, then 96 and 160.
    test::put_volume(disk, 160 * mebibyte, image.bytes());
    const auto round = find_volumes(*test::memory_source(disk), file_systems(), {}, {.places = 5});
    ASSERT_EQ(round.volumes.size(), 1u);
    EXPECT_EQ(round.volumes[0].volume.offset, 160 * mebibyte);
}

TEST(FindVolumes, GoesOnBehindEachVolume) {
    // Three in a row, none but the first at a usual place, and one after a volume at byte 0.
    test::FatImage image;
    const auto size = image.bytes().size();
    ASSERT_NE(size % mebibyte, 0u);
    for (const std::size_t first : {std::size_t{0}, 90 * mebibyte}) {
        ByteVector disk(100 * mebibyte);
        for (std::size_t i = 0; i < 3; ++i) test::put_volume(disk, first + i * size, image.bytes());
        const auto seen = find(disk);
        ASSERT_EQ(seen.volumes.size(), 3u) << first;
        EXPECT_EQ(seen.volumes[2].volume.offset, first + 2 * size);
    }
}

TEST(FindVolumes, FindsHeadlessOnesByCopiesAtTheirEnds) {
    // NTFS keeps its copy at the end. One ends at a whole MiB, far from anything else; one ends where the
    // next volume begins.
    auto headless = test::ntfs_head();
    std::fill_n(headless.begin(), 512, 0);
    ByteVector disk(200 * mebibyte);
    test::put_volume(disk, 150 * mebibyte - headless.size(), headless);
    test::put_volume(disk, 170 * mebibyte, test::FatImage().bytes());
    test::put_volume(disk, 170 * mebibyte - headless.size(), headless);
    const auto seen = find(disk);
    ASSERT_EQ(seen.volumes.size(), 3u);
    EXPECT_EQ(seen.volumes[0].volume.offset, 150 * mebibyte - headless.size());
    EXPECT_EQ(seen.volumes[1].volume.offset, 170 * mebibyte - headless.size());
    EXPECT_EQ(seen.volumes[1].volume.found_by, "copy of its boot sector");
}

TEST(FindVolumes, BoundsAnImageFullOfImages) {
    ByteVector disk(96 * mebibyte);
    test::FatImage image;
    for (std::size_t at = 0; at + image.bytes().size() <= disk.size(); at += 512 * 16)
        std::copy_n(image.bytes().begin(), 512, disk.begin() + static_cast<std::ptrdiff_t>(at));
    std::fill_n(disk.begin(), 512, 0);
    EXPECT_LE(find(disk).volumes.size(), 256u);
}

TEST(FindVolumes, FindsNothingInNothing) {
    EXPECT_TRUE(find(ByteVector(3 * mebibyte)).volumes.empty());
    EXPECT_TRUE(find(ByteVector(10, 'x')).volumes.empty());
}

}  // namespace undershelf
