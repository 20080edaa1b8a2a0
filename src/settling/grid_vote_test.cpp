#include "settling/grid_vote.hpp"

#include <gtest/gtest.h>

namespace undershelf::settling {

TEST(GridVote, FindsTheGridThatMostSightingsFit) {
    std::vector<Sighting> all;
    for (const std::uint64_t n : {3u, 15u, 16u, 898u}) all.push_back({1'048'576 + n * 4096, n});
    all.push_back({77'824, 31});
    all.push_back({512'000, 2'000'000});
    const auto votes = vote_for_grids(all, 32768, 4);
    ASSERT_FALSE(votes.empty());
    EXPECT_EQ(votes[0].start, 1'048'576u);
    EXPECT_EQ(votes[0].unit_size, 4096u);
    EXPECT_EQ(votes[0].votes, 4u);
    EXPECT_LE(votes[0].runner_up, 2u);
}

TEST(GridVote, TellsHowGoodTheNextOneIs) {
    std::vector<Sighting> all;
    for (const std::uint64_t n : {1u, 2u, 7u}) {
        all.push_back({65'536 + n * 1024, n});
        all.push_back({131'072 + n * 2048, n});
    }
    const auto votes = vote_for_grids(all, 4096, 1);
    ASSERT_EQ(votes.size(), 1u);
    EXPECT_EQ(votes[0].votes, 3u);
    EXPECT_EQ(votes[0].runner_up, 3u);
}

TEST(GridVote, NumbersThatPointBeforeTheSourceVoteForNothing) {
    EXPECT_TRUE(vote_for_grids({{0, 3}, {512, 4}, {2048, ~0ull}, {4096, ~0ull / 512}}, 32768, 4).empty());
}

}  // namespace undershelf::settling
