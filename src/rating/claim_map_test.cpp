#include "rating/claim_map.hpp"

#include <gtest/gtest.h>

#include <random>

namespace undershelf {

namespace {
std::vector<ByteRange> ranges(const std::vector<Loss>& losses) {
    std::vector<ByteRange> out;
    for (const auto& l : losses) out.push_back(l.range);
    return out;
}
}  // namespace

TEST(ClaimMap, LiveContentHasItsBytes) {
    const ClaimMap map({{{100, 50}, 1, 11, live_rank}, {{0, 200}, 2, 12, 5}});
    EXPECT_EQ(ranges(map.losses({0, 200}, 2, 5)), (std::vector<ByteRange>{{100, 50}}));
    EXPECT_EQ(map.losses({0, 200}, 2, 5)[0].entry, 11);
    EXPECT_TRUE(map.losses({100, 50}, 1, live_rank).empty());
}

TEST(ClaimMap, TheLaterLostFileHasThem) {
    const ClaimMap map({{{0, 100}, 1, 11, 5}, {{50, 100}, 2, 12, 9}});
    EXPECT_EQ(ranges(map.losses({0, 100}, 1, 5)), (std::vector<ByteRange>{{50, 50}}));
    EXPECT_TRUE(map.losses({50, 100}, 2, 9).empty());
}

TEST(ClaimMap, EqualsContestThem) {
    const ClaimMap map({{{0, 100}, 1, 11, 5}, {{50, 100}, 2, 12, 5}});
    for (const auto identity : {1u, 2u}) {
        const auto losses = map.losses({identity == 1 ? 0u : 50u, 100}, identity, 5);
        const auto contested = std::count_if(losses.begin(), losses.end(), [](const Loss& l) {
            return l.contested && l.range == ByteRange{50, 50};
        });
        EXPECT_EQ(contested, 1) << identity;
    }
}

TEST(ClaimMap, NamesOfOneContentDoNotQuarrel) {
    const ClaimMap map({{{0, 100}, 7, 11, 5}, {{0, 100}, 7, 12, 5}});
    EXPECT_TRUE(map.losses({0, 100}, 7, 5).empty());
}

TEST(ClaimMap, LooksAtNoMoreThanItMay) {
    std::vector<Claim> claims;
    for (std::uint64_t i = 0; i < 100; ++i)
        claims.push_back({{i * 10, 10}, i + 10, static_cast<std::int64_t>(i), live_rank});
    const ClaimMap map(claims);
    std::uint64_t looks = 30;
    const auto losses = map.losses({0, 1000}, 1, 5, looks);
    EXPECT_EQ(looks, 0u);
    ASSERT_EQ(losses.size(), 31u);
    EXPECT_TRUE(losses.back().contested);
    EXPECT_EQ(losses.back().range, (ByteRange{300, 700}));
}

TEST(ClaimMap, EndsEarlyWhenAsked) {
    struct Stopped final : Progress {
        bool stopped() const override { return true; }
    };
    std::vector<Claim> claims(2'000'000, Claim{{10, 10}, 1, 1, 5});
    EXPECT_EQ(ClaimMap(std::move(claims), Stopped()).claims(), 0u);
}

TEST(ClaimMap, IsEmptyWithoutClaims) {
    EXPECT_TRUE(ClaimMap({}).losses({0, 10}, 1, 1).empty());
    EXPECT_TRUE(ClaimMap({{{5, 0}, 1, 1, 1}}).losses({0, 10}, 2, 1).empty());
}

TEST(ClaimMap, AgreesWithCountingBytes) {
    std::mt19937 random(5);
    for (int round = 0; round < 50; ++round) {
        std::vector<Claim> claims;
        for (unsigned i = 1; i <= 30; ++i) {
            const ByteRange range{random() % 200, 1 + random() % 60};
            claims.push_back(
                {range, i, i, random() % 4 == 0 ? live_rank : static_cast<ClaimRank>(random() % 6)});
        }
        const ClaimMap map(claims);
        for (const auto& c : claims) {
            if (c.rank == live_rank) continue;
            const RangeSet lost(ranges(map.losses(c.range, c.identity, c.rank)));
            for (auto at = c.range.offset; at < c.range.end(); ++at) {
                const bool expected = std::any_of(claims.begin(), claims.end(), [&](const Claim& o) {
                    return o.identity != c.identity && o.rank >= c.rank && o.range.contains(at);
                });
                ASSERT_EQ(lost.contains(at), expected) << at;
            }
        }
    }
}

}  // namespace undershelf
