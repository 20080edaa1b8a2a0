#include "unnamed/space.hpp"

#include <gtest/gtest.h>

namespace undershelf {

namespace {

Volume volume(int number, std::uint64_t offset, std::uint64_t size, std::uint32_t cluster,
              VolumeState state = VolumeState::present, double support = 1) {
    Volume v;
    v.number = number;
    v.offset = offset;
    v.grid_start = offset + 1536;
    v.size = size;
    v.cluster_size = cluster;
    v.state = state;
    v.support = support;
    return v;
}

}  // namespace

TEST(FreeSpace, EndsWhereSomebodyBegins) {
    const FreeSpace space(RangeSet({{1000, 500}, {3000, 100}}), 5000);
    EXPECT_EQ(space.end_of(0), 1000u);
    EXPECT_EQ(space.end_of(1000), 1000u);
    EXPECT_EQ(space.end_of(1500), 3000u);
    EXPECT_EQ(space.end_of(3100), 5000u);
    EXPECT_TRUE(space.contains(999));
    EXPECT_FALSE(space.contains(1499));
    EXPECT_EQ(space.bytes(), 4400u);
}

TEST(Grids, HaveStepsWhereClustersBegin) {
    const Grids grids({volume(1, 0, 1 << 20, 2048)});
    EXPECT_EQ(grids.step_at(1536), 2048u);
    EXPECT_EQ(grids.step_at(1536 + 2048), 2048u);
    EXPECT_FALSE(grids.stands(2048));
    EXPECT_EQ(grids.next_step(1536), 1536u);
    EXPECT_EQ(grids.next_step(1537), 1536u + 2048);
    EXPECT_EQ(grids.next_step((2 << 20) + 1), (2u << 20) + 512);
    // Where no grid is known files begin at sectors.
    EXPECT_EQ(grids.step_at(512), 512u);
    EXPECT_EQ(grids.step_at((1 << 20) + 512), 512u);
    EXPECT_FALSE(grids.stands((1 << 20) + 100));
    EXPECT_EQ(grids.end_at(1536), 1u << 20);
    EXPECT_EQ(grids.volume_at(4096), 1);
    EXPECT_FALSE(grids.volume_at(2 << 20));
}

TEST(Grids, OfSeveralVolumesAllCount) {
    auto former = volume(3, 0, 1 << 20, 4096, VolumeState::former, 0.4);
    former.grid_start = 512;
    auto better = volume(4, 0, 1 << 20, 8192, VolumeState::former, 0.9);
    better.grid_start = 512;
    const Grids grids({former, better, volume(1, 0, 1 << 20, 2048)});
    EXPECT_EQ(grids.step_at(1536), 2048u);
    EXPECT_EQ(grids.step_at(512 + 8192), 4096u);  // the smaller one of two
    EXPECT_EQ(grids.volume_at(1536), 1);
    const Grids gone({former, better});
    EXPECT_EQ(gone.volume_at(1536), 4);
}

}  // namespace undershelf
