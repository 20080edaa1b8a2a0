#include "rating/claim_map.hpp"

#include <gtest/gtest.h>

#include <random>

#include "rating/claimant.hpp"

namespace undershelf {

namespace {
std::vector<ByteRange> ranges(const std::vector<Loss>& losses) {
    std::vector<ByteRange> out;
    for (const auto& l : losses) out.push_back(l.range);
    return out;
}

Standing written(ClaimRank rank, Hold hold = Hold::recorded, std::int32_t resolution = 0) {
    return {hold, resolution, rank};
}
constexpr Standing live{Hold::live, 0, live_rank};
}  // namespace

TEST(ClaimMap, LiveContentHasItsBytes) {
    const ClaimMap map({{{100, 50}, 1, 11, live}, {{0, 200}, 2, 12, written(5)}});
    EXPECT_EQ(ranges(map.losses({0, 200}, 2, written(5))), (std::vector<ByteRange>{{100, 50}}));
    EXPECT_EQ(map.losses({0, 200}, 2, written(5))[0].entry, 11);
    EXPECT_TRUE(map.losses({100, 50}, 1, live).empty());
}

TEST(ClaimMap, TheLaterLostFileHasThem) {
    const ClaimMap map({{{0, 100}, 1, 11, written(5)}, {{50, 100}, 2, 12, written(9)}});
    EXPECT_EQ(ranges(map.losses({0, 100}, 1, written(5))), (std::vector<ByteRange>{{50, 50}}));
    EXPECT_TRUE(map.losses({50, 100}, 2, written(9)).empty());
}

TEST(ClaimMap, EqualsContestThem) {
    const ClaimMap map({{{0, 100}, 1, 11, written(5)}, {{50, 100}, 2, 12, written(5)}});
    for (const auto identity : {1u, 2u}) {
        const auto losses = map.losses({identity == 1 ? 0u : 50u, 100}, identity, written(5));
        const auto contested = std::count_if(losses.begin(), losses.end(), [](const Loss& l) {
            return l.contested && l.range == ByteRange{50, 50};
        });
        EXPECT_EQ(contested, 1) << identity;
    }
}

TEST(ClaimMap, NamesOfOneContentDoNotQuarrel) {
    const ClaimMap map({{{0, 100}, 7, 11, written(5)}, {{0, 100}, 7, 12, written(5)}});
    EXPECT_TRUE(map.losses({0, 100}, 7, written(5)).empty());
}

TEST(ClaimMap, LooksAtNoMoreThanItMay) {
    std::vector<Claim> claims;
    for (std::uint64_t i = 0; i < 100; ++i)
        claims.push_back({{i * 10, 10}, i + 10, static_cast<std::int64_t>(i), live});
    const ClaimMap map(claims);
    std::uint64_t looks = 30;
    const auto losses = map.losses({0, 1000}, 1, written(5), looks);
    EXPECT_EQ(looks, 0u);
    ASSERT_EQ(losses.size(), 31u);
    EXPECT_TRUE(losses.back().contested);
    EXPECT_EQ(losses.back().range, (ByteRange{300, 700}));
}

TEST(ClaimMap, EndsEarlyWhenAsked) {
    struct Stopped final : Progress {
        bool stopped() const override { return true; }
    };
    std::vector<Claim> claims(2'000'000, Claim{{10, 10}, 1, 1, written(5)});
    EXPECT_EQ(ClaimMap(std::move(claims), Stopped()).claims(), 0u);
}

TEST(ClaimMap, IsEmptyWithoutClaims) {
    EXPECT_TRUE(ClaimMap({}).losses({0, 10}, 1, written(1)).empty());
    EXPECT_TRUE(ClaimMap({{{5, 0}, 1, 1, written(1)}}).losses({0, 10}, 2, written(1)).empty());
}

TEST(ClaimMap, ComparesDatesWithinTheirResolution) {
    const auto early = written(100, Hold::recorded, 20), later = written(120, Hold::recorded, 20),
               latest = written(121, Hold::recorded, 20);
    EXPECT_EQ(against(early, later), Verdict::contested);
    EXPECT_EQ(against(later, early), Verdict::contested);
    EXPECT_EQ(against(early, latest), Verdict::lost);
    EXPECT_EQ(against(latest, early), Verdict::holds);
    // An unknown date is earlier than any.
    EXPECT_EQ(against(written(unknown_rank), early), Verdict::lost);
    EXPECT_EQ(against(written(unknown_rank), written(unknown_rank)), Verdict::contested);
}

TEST(ClaimMap, LivesFollowEachOther) {
    // What was deleted before a volume was given up comes before what it still had then.
    const VolumeTraits present{.former = 0}, last{.former = 1}, one_before{.former = 2};
    const std::vector<Life> in_order{life_of(one_before, true), life_of(one_before, false),
                                     life_of(last, true), life_of(last, false), life_of(present, false)};
    for (std::size_t i = 1; i < in_order.size(); ++i) EXPECT_LT(in_order[i - 1], in_order[i]) << i;
    EXPECT_EQ(life_of(present, true), life_of(present, false));
    EXPECT_TRUE(was_kept(life_of(last, false)) && was_kept(life_of(one_before, false)));
    EXPECT_FALSE(was_kept(life_of(last, true)) || was_kept(life_of(one_before, true)));
}

TEST(ClaimMap, AGuessNeverBeatsARecord) {
    for (const ClaimRank age : {5, 9})
        EXPECT_EQ(against(written(5, Hold::guessed), written(age)), Verdict::lost);
    EXPECT_EQ(against(written(9, Hold::guessed), written(5)), Verdict::contested);
    EXPECT_EQ(against(written(9, Hold::guessed), written(5, Hold::proven)), Verdict::lost);
    for (const ClaimRank age : {1, 5, 9}) {
        EXPECT_EQ(against(written(5), written(age, Hold::guessed)), Verdict::holds);
        EXPECT_EQ(against(written(5, Hold::guessed), written(age, Hold::doubted)), Verdict::holds);
        EXPECT_EQ(against(written(age, Hold::doubted), written(5, Hold::guessed)), Verdict::lost);
    }
    EXPECT_EQ(against(written(9), written(5, Hold::proven)), Verdict::contested);
}

TEST(ClaimMap, AYoungerGuessCastsDoubtOnAnOlderRecord) {
    const auto doubts = [](ClaimRank guess, ClaimRank record, Hold hold = Hold::recorded) {
        const ClaimMap map(
            {{{0, 100}, 1, 11, written(guess, Hold::guessed)}, {{50, 20}, 2, 12, written(record, hold)}});
        return !map.losses({50, 20}, 2, written(record, hold)).empty();
    };
    EXPECT_TRUE(doubts(9, 5));
    EXPECT_FALSE(doubts(5, 5));
    EXPECT_FALSE(doubts(5, 9));
    EXPECT_FALSE(doubts(9, 5, Hold::proven));
}

TEST(ClaimMap, AgreesWithCountingBytes) {
    std::mt19937 random(5);
    for (int round = 0; round < 50; ++round) {
        std::vector<Claim> claims;
        for (unsigned i = 1; i <= 30; ++i) {
            const ByteRange range{random() % 200, 1 + random() % 60};
            const auto hold = static_cast<Hold>(random() % 5);
            const auto rank = static_cast<ClaimRank>(random() % 6);
            claims.push_back({range, i, i, hold == Hold::live ? live : written(rank, hold, 1)});
        }
        const ClaimMap map(claims);
        for (const auto& c : claims) {
            if (c.standing.hold == Hold::live) continue;
            const RangeSet lost(ranges(map.losses(c.range, c.identity, c.standing)));
            for (auto at = c.range.offset; at < c.range.end(); ++at) {
                // Whoever is highest has the byte; the others are held against that one alone, and it
                // against all that may cast a doubt.
                const Claim* owner = nullptr;
                for (const auto& o : claims) {
                    if (!o.range.contains(at)) continue;
                    const auto higher =
                        !owner || o.standing.hold > owner->standing.hold ||
                        (o.standing.hold == owner->standing.hold && o.standing.rank > owner->standing.rank);
                    if (higher) owner = &o;
                }
                const bool expected = owner->identity != c.identity
                                          ? against(c.standing, owner->standing) != Verdict::holds
                                          : std::any_of(claims.begin(), claims.end(), [&](const Claim& o) {
                                                return o.identity != c.identity && o.range.contains(at) &&
                                                       against(o.standing, c.standing) == Verdict::contested;
                                            });
                ASSERT_EQ(lost.contains(at), expected) << at;
            }
        }
    }
}

}  // namespace undershelf
