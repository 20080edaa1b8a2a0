#include "layout/partition_map.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

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
