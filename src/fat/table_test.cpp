#include "fat/table.hpp"

#include <gtest/gtest.h>

#include "support/fat_image.hpp"
#include "support/memory_device.hpp"

namespace undershelf::fat {

namespace {
using Runs = std::vector<Run>;

Chain follow(test::FatImage& image, Cluster start, std::uint64_t wanted = 0, RangeSet bad = {}) {
    const auto source = test::memory_source(image.bytes(), std::move(bad));
    const Table table(*source, 0, image.geometry());
    return table.follow(start, wanted, {}, ClusterSet(image.geometry().cluster_count));
}
}  // namespace

TEST(FatTable, FollowsChainsOfAllWidths) {
    for (const auto& [width, clusters] :
         {std::pair{Width::fat12, 2000u}, {Width::fat16, 5000u}, {Width::fat32, 2000u}}) {
        test::FatImage image({width, clusters});
        image.chain({5, 6, 7, 20, 21, 9});
        const auto chain = follow(image, 5);
        EXPECT_EQ(chain.runs, (Runs{{5, 3}, {20, 2}, {9, 1}}));
        EXPECT_EQ(chain.end, ChainEnd::end_mark);
    }
}

TEST(FatTable, CutsLoops) {
    test::FatImage image;
    image.chain({5, 6, 7});
    image.set_fat(7, 6);
    auto chain = follow(image, 5);
    EXPECT_EQ(chain.end, ChainEnd::loop);
    EXPECT_EQ(chain.runs, (Runs{{5, 3}}));
    image.set_fat(9, 9);
    chain = follow(image, 9);
    EXPECT_EQ(chain.end, ChainEnd::loop);
    EXPECT_EQ(chain.runs, (Runs{{9, 1}}));
}

TEST(FatTable, StopsAtTheVolumesEnd) {
    test::FatImage image;
    image.chain({5, 6});
    image.set_fat(6, 999'999);
    EXPECT_EQ(follow(image, 5).end, ChainEnd::outside);
    image.set_fat(6, 0);
    EXPECT_EQ(follow(image, 5).end, ChainEnd::free_entry);
    EXPECT_TRUE(follow(image, 999'999).runs.empty());
}

TEST(FatTable, TakesTheBetterCopy) {
    test::FatImage image;
    image.chain({5, 6, 7});
    image.set_fat(6, 0, 0);  // broken in the first FAT only
    const auto chain = follow(image, 5, 3);
    EXPECT_TRUE(chain.second_copy);
    EXPECT_EQ(chain.runs, (Runs{{5, 3}}));
    // A chain that is sound in the first copy stays there.
    image.chain({30, 31});
    image.set_fat(31, 40, 1);
    EXPECT_FALSE(follow(image, 30, 2).second_copy);
}

TEST(FatTable, ReadsTheOtherCopyWhereOneIsUnreadable) {
    test::FatImage image;
    image.chain({5, 6, 7});
    const auto& g = image.geometry();
    EXPECT_EQ(follow(image, 5, 3, RangeSet({{g.fat_offset, 512}})).clusters(), 3u);
    EXPECT_EQ(follow(image, 5, 3, RangeSet({{g.fat_offset, 512}, {g.fat_offset + g.fat_size, 512}})).end,
              ChainEnd::unreadable);
}

TEST(FatTable, CountsWhatIsInUse) {
    test::FatImage image({Width::fat32, 60'000});
    image.chain({5, 6, 50'000});
    const auto source = test::memory_source(image.bytes());
    const Table table(*source, 0, image.geometry());
    EXPECT_EQ(table.used_clusters(), 4u);  // with the root folder
    EXPECT_TRUE(table.in_use(50'000));
    EXPECT_FALSE(table.in_use(50'001));
    EXPECT_EQ(table.differing_clusters(), 0u);
}

}  // namespace undershelf::fat
