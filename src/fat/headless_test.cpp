#include "fat/headless.hpp"

#include <gtest/gtest.h>

#include <cstring>

#include "fat/file_system.hpp"
#include "support/fat_image.hpp"
#include "support/memory_device.hpp"
#include "support/read_volume.hpp"

namespace undershelf::fat {

namespace {

/// A volume with a folder and files of several lengths in its root.
test::FatImage card(Width width, std::uint32_t clusters, std::uint32_t sectors_per_cluster) {
    test::FatImage out({.width = width, .clusters = clusters, .sectors_per_cluster = sectors_per_cluster});
    out.chain({4});
    out.make_folder(4, 0);
    out.add(0, {"SCRIPTS    ", {}, 4, 0, ATTR_DIRECTORY});
    const auto size = out.geometry().cluster_size;
    out.put(0, "ACT1    TXT", u"", {10, 11, 12}, test::sample_text("Act one", 2 * size + 5));
    out.put(4, "ACT2    TXT", u"", {13}, "act two");
    return out;
}

std::optional<Headless> solve(test::FatImage& image, std::uint64_t offset) {
    const auto g = image.geometry();
    ByteVector disk(offset);
    disk.insert(disk.end(), image.bytes().begin(), image.bytes().end());
    std::fill_n(disk.begin() + static_cast<std::ptrdiff_t>(offset), 512, 0);
    if (g.width == Width::fat32)
        std::fill_n(disk.begin() + static_cast<std::ptrdiff_t>(offset) + 6 * 512, 512, 0);
    return solve_tables(*test::memory_source(disk), offset + g.fat_offset,
                        offset + g.fat_offset + g.fat_size);
}

}  // namespace

TEST(FatHeadless, IsWorkedOutFromTablesAndFolders) {
    struct Case {
        Width width;
        std::uint32_t clusters, sectors_per_cluster;
    };
    for (const auto& c : {Case{Width::fat32, 3000, 1}, Case{Width::fat32, 2000, 8},
                          Case{Width::fat16, 5000, 2}, Case{Width::fat12, 2000, 4}}) {
        auto image = card(c.width, c.clusters, c.sectors_per_cluster);
        const auto& g = image.geometry();
        const auto found = solve(image, 1 << 20);
        ASSERT_TRUE(found) << static_cast<int>(c.width);
        EXPECT_EQ(found->geometry.width, c.width);
        EXPECT_EQ(found->geometry.cluster_size, g.cluster_size);
        EXPECT_EQ(found->offset + found->geometry.data_offset, (1u << 20) + g.data_offset);
        EXPECT_GE(found->geometry.cluster_count, g.cluster_count);
        EXPECT_GT(found->support, 0.8);
    }
}

TEST(FatHeadless, KnowsItsStart) {
    auto image = card(Width::fat32, 3000, 1);
    for (const std::size_t sector : {1, 7}) {
        std::memcpy(image.bytes().data() + sector * 512, "RRaA", 4);
        std::memcpy(image.bytes().data() + sector * 512 + 484, "rrAa", 4);
    }
    EXPECT_EQ(solve(image, 5 * 512)->offset, 5u * 512);
    auto small = card(Width::fat16, 5000, 2);
    EXPECT_EQ(solve(small, 3 << 20)->offset, 3u << 20);
}

TEST(FatHeadless, IsNothingWithoutFoldersToBearItOut) {
    test::FatImage empty({.width = Width::fat16, .clusters = 5000});
    EXPECT_FALSE(solve(empty, 0));
    auto image = card(Width::fat16, 5000, 2);
    const auto& g = image.geometry();
    // Two FATs that are no pair, and files whose chains are gone.
    EXPECT_FALSE(solve_tables(*test::memory_source(image.bytes()), g.fat_offset + 512, g.fat_offset + 1024));
    std::fill_n(image.bytes().begin() + static_cast<std::ptrdiff_t>(g.fat_offset) + 8, 2 * g.fat_size - 8, 0);
    std::fill_n(image.bytes().begin() + static_cast<std::ptrdiff_t>(image.cluster_offset(4)), 64, 0);
    EXPECT_FALSE(solve(image, 0));
}

TEST(FatHeadless, IsReadLikeAnyOther) {
    auto image = card(Width::fat16, 5000, 2);
    const auto g = image.geometry();
    std::fill_n(image.bytes().begin(), 512, 0);
    const auto source = test::memory_source(image.bytes());
    const auto found = file_system().recognise_tables(*source, g.fat_offset, g.fat_offset + g.fat_size, {});
    ASSERT_TRUE(found);
    EXPECT_EQ(found->volume.found_by, "FATs");
    test::Collector seen;
    Progress progress;
    file_system().open(*source, found->volume, NoTraces(), {})->read(seen, progress);
    EXPECT_EQ(seen.entries.size(), 3u);
    ASSERT_TRUE(seen.find("ACT1.TXT"));
    EXPECT_EQ(seen.find("ACT1.TXT")->layout, Layout::known);
}

TEST(FatHeadless, KeepsItsGeometryAsText) {
    const auto g = card(Width::fat32, 2000, 8).geometry();
    const auto back = unpack_geometry(pack_geometry(g));
    ASSERT_TRUE(back);
    EXPECT_EQ(back->data_offset, g.data_offset);
    EXPECT_EQ(back->cluster_count, g.cluster_count);
    EXPECT_EQ(back->root_cluster, g.root_cluster);
    for (const auto* bad :
         {"", "width 32", "width 17\ncluster 512\ndata 0 9", "width 32\ncluster 3\ndata 0 9",
          "width 32\ncluster 512\ndata 0 0", "width 32\ncluster 512\ndata 9"})
        EXPECT_FALSE(unpack_geometry(NumberLines(bad))) << bad;
}

TEST(FatHeadless, TablesBeginWithTheMediaByteAndOnes) {
    ByteVector sector(512);
    EXPECT_FALSE(may_be_table(sector));
    std::memcpy(sector.data(), "\xF8\xFF\xFF\x0F", 4);
    EXPECT_TRUE(may_be_table(sector));
    std::fill(sector.begin(), sector.end(), 0xFF);
    EXPECT_FALSE(may_be_table(sector));
}

}  // namespace undershelf::fat
