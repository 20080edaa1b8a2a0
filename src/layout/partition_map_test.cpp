#include "layout/partition_map.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "base/crc32.hpp"
#include "support/disk_image.hpp"
#include "support/memory_device.hpp"

namespace undershelf {

namespace {
using ::testing::Contains;
using ::testing::HasSubstr;

std::optional<PartitionMap> read(const ByteVector& disk) {
    return read_partition_map(*test::memory_source(disk));
}
ByteVector disk_of(std::size_t sectors) {
    return ByteVector(sectors * 512);
}
}  // namespace

TEST(Mbr, ListsPrimaryAndLogicalPartitions) {
    auto disk = disk_of(4000);
    test::put_mbr_entry(disk, 0, 0, 0x0C, 63, 1000);
    test::put_mbr_entry(disk, 0, 1, 0x0F, 1100, 2000);
    test::put_mbr_entry(disk, 1100 * 512, 0, 0x07, 10, 400);
    test::put_mbr_entry(disk, 1100 * 512, 1, 0x05, 500, 600);
    test::put_mbr_entry(disk, 1600 * 512, 0, 0x83, 10, 400);
    const auto map = read(disk);
    ASSERT_TRUE(map);
    EXPECT_EQ(map->scheme, "MBR");
    EXPECT_EQ(map->condition, "ok");
    ASSERT_EQ(map->partitions.size(), 4u);
    EXPECT_EQ(map->partitions[2].number, 5);
    EXPECT_EQ(map->partitions[2].offset, 1110u * 512);
    EXPECT_EQ(map->partitions[3].offset, 1610u * 512);
    EXPECT_EQ(map->partitions[3].type, "Linux");
}

TEST(Mbr, CutsLoopsOfLogicalPartitions) {
    auto disk = disk_of(4000);
    test::put_mbr_entry(disk, 0, 0, 0x05, 1000, 2000);
    test::put_mbr_entry(disk, 1000 * 512, 0, 0x07, 10, 400);
    test::put_mbr_entry(disk, 1000 * 512, 1, 0x05, 500, 600);
    test::put_mbr_entry(disk, 1500 * 512, 0, 0x07, 10, 400);
    test::put_mbr_entry(disk, 1500 * 512, 1, 0x05, 500, 600);
    const auto map = read(disk);
    ASSERT_TRUE(map);
    EXPECT_EQ(map->condition, "damaged");
    EXPECT_THAT(map->remarks, Contains(HasSubstr("comes back")));
    EXPECT_EQ(map->partitions.size(), 3u);
}

TEST(Mbr, SaysWhatContradicts) {
    auto disk = disk_of(1000);
    test::put_mbr_entry(disk, 0, 0, 0x0C, 100, 500);
    test::put_mbr_entry(disk, 0, 1, 0x0C, 400, 200);
    test::put_mbr_entry(disk, 0, 2, 0x0C, 900, 500);
    test::put_mbr_entry(disk, 0, 3, 0x0C, 0xF0000000, 0xF0000000);
    const auto map = read(disk);
    ASSERT_TRUE(map);
    EXPECT_EQ(map->condition, "contradicts itself");
    EXPECT_THAT(map->remarks, Contains(HasSubstr("1 and 2 overlap")));
    EXPECT_THAT(map->partitions[2].state, HasSubstr("after the end"));
    EXPECT_THAT(map->partitions[3].state, HasSubstr("starts after the end"));
}

TEST(Mbr, TakesNoBootCodeForATable) {
    auto disk = disk_of(100);
    test::put_mbr_entry(disk, 0, 0, 0x0C, 10, 50);
    disk[446] = 0x33;
    EXPECT_FALSE(read(disk));
    EXPECT_FALSE(read(disk_of(100)));
    EXPECT_FALSE(read(ByteVector(100)));
}

TEST(Gpt, ListsPartitionsInBothSectorSizes) {
    for (const std::uint32_t sector : {512u, 4096u}) {
        auto disk = ByteVector(1000 * sector);
        test::put_gpt(disk, {{100, 199, u"Scripts"}, {300, 399, u"Fäden"}}, sector);
        const auto map = read(disk);
        ASSERT_TRUE(map);
        EXPECT_EQ(map->scheme, "GPT");
        EXPECT_EQ(map->condition, "ok") << map->remarks.at(0);
        ASSERT_EQ(map->partitions.size(), 2u);
        EXPECT_EQ(map->partitions[1].name, "Fäden");
        EXPECT_EQ(map->partitions[1].offset, 300u * sector);
        EXPECT_EQ(map->partitions[1].size, 100u * sector);
        EXPECT_EQ(map->partitions[1].type, "basic data");
    }
}

TEST(Gpt, TakesTheSoundCopy) {
    for (const std::size_t damage : {512u + 40u, 1024u + 32u, 512u}) {
        auto disk = disk_of(1000);
        test::put_gpt(disk, {{100, 199, u"Scripts"}});
        disk[damage] ^= 0xFF;
        const auto map = read(disk);
        ASSERT_TRUE(map);
        EXPECT_EQ(map->condition, "damaged");
        EXPECT_THAT(map->remarks, Contains(HasSubstr("first header")));
        ASSERT_EQ(map->partitions.size(), 1u);
        EXPECT_EQ(map->partitions[0].offset, 100u * 512);
    }
    auto disk = disk_of(1000);
    test::put_gpt(disk, {{100, 199, u"Scripts"}});
    disk.back() = disk[disk.size() - 500] ^= 0xFF;
    const auto map = read(disk);
    EXPECT_THAT(map->remarks, Contains(HasSubstr("backup header")));
    EXPECT_EQ(map->partitions.size(), 1u);
}

TEST(Gpt, BoundsAbsurdArrays) {
    auto disk = disk_of(1000);
    test::put_gpt(disk, {{100, 199, u"Scripts"}});
    for (const std::size_t header : {std::size_t{512}, disk.size() - 512})
        test::put_number(disk, header + 80, 0xFFFFFFFF, 4);
    const auto map = read(disk);
    ASSERT_TRUE(map);
    EXPECT_EQ(map->condition, "damaged");
    EXPECT_TRUE(map->partitions.empty());
}

TEST(Gpt, BoundsAbsurdHeaders) {
    auto disk = disk_of(1000);
    test::put_gpt(disk, {{100, 199, u"Scripts"}});
    for (const std::size_t header : {std::size_t{512}, disk.size() - 512})
        test::put_number(disk, header + 12, 0xFFFFFFFF, 4);  // HeaderSize
    const auto map = read(disk);
    ASSERT_TRUE(map);
    EXPECT_EQ(map->condition, "damaged");
    EXPECT_TRUE(map->partitions.empty());
}

/// Sets a header's size, and makes its checksum right.
void resize_header(ByteVector& disk, std::size_t at, std::uint64_t size) {
    test::put_number(disk, at + 12, size, 4);
    test::put_number(disk, at + 16, 0, 4);
    const auto sum = crc32_of(Bytes(disk).subspan(at, static_cast<std::size_t>(size)));
    test::put_number(disk, at + 16, sum, 4);
}

TEST(Gpt, HeadersAreAsLongAsTheirSpecificationAllows) {
    // UEFI 2.10, 5.3.2: 92 bytes or more, within a sector.
    for (const auto& [size, sound] : {std::pair{91, false}, {92, true}, {512, true}, {513, false}}) {
        auto disk = disk_of(1000);
        test::put_gpt(disk, {{100, 199, u"Scripts"}});
        resize_header(disk, 512, static_cast<std::uint64_t>(size));
        const auto map = read(disk);
        ASSERT_TRUE(map);
        EXPECT_EQ(map->condition == "ok", sound) << size;
    }
}

TEST(Gpt, TheBackupIsWhereTheFirstHeaderSaysElseAtTheEnd) {
    // On a larger drive the copy of a disk has its backup in the middle.
    auto larger = disk_of(1000);
    test::put_gpt(larger, {{100, 199, u"Scripts"}});
    larger.resize(1500 * 512);
    EXPECT_EQ(read(larger)->condition, "ok");
    // Nothing is there where it says a place after the end of the source.
    for (const std::uint64_t place : {1000, 5000}) {
        auto disk = disk_of(1000);
        test::put_gpt(disk, {{100, 199, u"Scripts"}});
        test::put_number(disk, 512 + 32, place, 8);  // AlternateLBA
        resize_header(disk, 512, 92);
        EXPECT_EQ(read(disk)->condition, "ok") << place;
    }
}

TEST(Gpt, PartitionsHaveASectorAtLeast) {
    auto disk = disk_of(1000);
    test::put_gpt(disk, {{100, 100, u"one"},
                         {200, 199, u"none"},
                         {300, 1ull << 51, u"endless"},
                         {990, 1099, u"long"},
                         {1000, 1010, u"after"}});
    const auto map = read(disk);
    ASSERT_TRUE(map);
    ASSERT_EQ(map->partitions.size(), 5u);
    EXPECT_EQ(map->partitions[0].size, 512u);
    EXPECT_EQ(map->partitions[0].state, "ok");
    EXPECT_EQ(map->partitions[1].state, "ends before it starts");
    EXPECT_EQ(map->partitions[2].state, "ends after the end of any drive");
    EXPECT_EQ(map->partitions[3].state, "reaches 51200 bytes after the end of the source");
    EXPECT_EQ(map->partitions[4].state, "starts after the end of the source");
    EXPECT_EQ(map->condition, "damaged");
}

TEST(AppleMap, ListsPartitions) {
    auto disk = disk_of(1000);
    test::put_apple_map(disk,
                        {{1, 63, "Apple", "Apple_partition_map"}, {100, 500, "Candlewick", "Apple_HFS"}});
    auto map = read(disk);
    ASSERT_TRUE(map);
    EXPECT_EQ(map->condition, "ok");
    ASSERT_EQ(map->partitions.size(), 2u);
    EXPECT_EQ(map->partitions[1].type, "Apple_HFS");
    EXPECT_EQ(map->partitions[1].offset, 100u * 512);
    test::put_number(disk, 512 + 4, 0xFFFFFFFF, 4, true);
    map = read(disk);
    EXPECT_EQ(map->condition, "damaged");
    EXPECT_EQ(map->partitions.size(), 2u);
}

}  // namespace undershelf
