#include "clusters/grid_vote.hpp"

#include <gtest/gtest.h>

namespace undershelf::clusters {

TEST(GridVote, FindsTheGridThatMostSightingsFit) {
    std::vector<Sighting> all;
    for (const Cluster c : {5u, 17u, 18u, 900u}) all.push_back({1'048'576 + (c - 2) * 4096ull, c});
    all.push_back({77'824, 33});
    all.push_back({512'000, 2'000'000});
    const auto votes = vote_for_grids(all, 32768, 4);
    ASSERT_FALSE(votes.empty());
    EXPECT_EQ(votes[0].data_start, 1'048'576u);
    EXPECT_EQ(votes[0].cluster_size, 4096u);
    EXPECT_EQ(votes[0].votes, 4u);
    EXPECT_LE(votes[0].runner_up, 2u);
    EXPECT_TRUE(votes[0].fits(all[0]));
    EXPECT_FALSE(votes[0].fits(all[4]));
}

TEST(GridVote, TellsHowGoodTheNextOneIs) {
    std::vector<Sighting> all;
    for (const Cluster c : {3u, 4u, 9u}) {
        all.push_back({65'536 + (c - 2) * 1024ull, c});
        all.push_back({131'072 + (c - 2) * 2048ull, c});
    }
    const auto votes = vote_for_grids(all, 4096, 1);
    ASSERT_EQ(votes.size(), 1u);
    EXPECT_EQ(votes[0].votes, 3u);
    EXPECT_EQ(votes[0].runner_up, 3u);
}

TEST(GridVote, NumbersThatPointBeforeTheSourceVoteForNothing) {
    EXPECT_TRUE(vote_for_grids({{0, 5}, {512, 6}, {1024, 1}, {2048, 0}}, 32768, 4).empty());
}

}  // namespace undershelf::clusters
