#include "rating/guesses.hpp"

#include <gtest/gtest.h>

#include "rating/claimant.hpp"

namespace undershelf {

namespace {

constexpr std::int32_t resolution = 10;

/// Claims of files that each have a recorded cluster of 10 bytes and a guessed rest.
class Files {
  public:
    Files& add(std::int64_t id, std::uint64_t start, std::uint64_t length, ClaimRank rank) {
        Claimant c;
        c.id = id;
        c.identity = static_cast<std::uint64_t>(id);
        c.origin = Origin::deleted;
        c.layout = length > 10 ? Layout::assumed : Layout::known;
        c.rank = rank;
        c.ranges = {{start, length}};
        c.deleted_before = deleted_before;
        append_claims(c, traits, claims);
        return *this;
    }
    void settle(Agreement seen) {
        in_turns = settle_guesses(claims, [&](std::int64_t) {
            ++looks;
            return seen;
        });
    }
    /// Bytes from an entry's start that it still claims.
    std::uint64_t length(std::int64_t id) const {
        std::uint64_t sum = 0;
        for (const auto& c : claims) sum += c.entry == id ? c.range.length : 0;
        return sum;
    }
    Hold start_of(std::int64_t id) const {
        for (const auto& c : claims) {
            if (c.entry == id && c.start) return c.standing.hold;
        }
        return Hold::live;
    }

    VolumeTraits traits{1000, 10, resolution};
    bool deleted_before = false;  ///< the next one was, before its volume was given up
    std::vector<Claim> claims;
    std::unordered_map<std::uint64_t, std::int64_t> in_turns;
    int looks = 0;
};

}  // namespace

TEST(Guesses, EndWhereAFileOfTheirAgeBegins) {
    Files files;
    files.add(1, 0, 50, 100).add(2, 30, 40, 105);
    files.settle(Agreement::weakly);
    EXPECT_EQ(files.length(1), 30u);
    EXPECT_EQ(files.length(2), 40u);
    ASSERT_EQ(files.in_turns.size(), 1u);
    EXPECT_EQ(files.in_turns.at(2), 1);
}

TEST(Guesses, EndWhereAYoungerFileBeginsWhichIsInNoDoubt) {
    Files files;
    files.add(1, 0, 50, 100).add(2, 30, 40, 200);
    files.settle(Agreement::unknown);
    EXPECT_EQ(files.length(1), 30u);
    EXPECT_TRUE(files.in_turns.empty());
}

TEST(Guesses, ShareTheDoubtWithAnOlderStart) {
    Files files;
    files.add(1, 0, 50, 200).add(2, 30, 40, 100);
    files.settle(Agreement::weakly);
    EXPECT_EQ(files.length(1), 50u);
    EXPECT_EQ(files.start_of(2), Hold::recorded);
    EXPECT_TRUE(files.in_turns.empty());
    // It may have come as far as that start; what lies after is no match for anybody.
    std::uint64_t doubted = 0;
    for (const auto& c : files.claims) {
        if (c.standing.hold != Hold::doubted) continue;
        doubted += c.range.length;
        EXPECT_EQ(c.range.offset, 40u);
    }
    EXPECT_EQ(doubted, 10u);
}

TEST(Guesses, EndAtAnOlderStartThatWasThereAtTheSameTime) {
    for (const bool first : {false, true}) {
        for (const bool second : {false, true}) {
            Files files;
            files.traits.former = 1;
            files.deleted_before = first;
            files.add(1, 0, 50, 200);
            files.deleted_before = second;
            files.add(2, 30, 40, 100);
            files.settle(Agreement::weakly);
            // What the volume still had when it was given up did not lie in the same bytes. Of what it had
            // deleted by then, nothing tells; what came later than that may have been written over it.
            const bool ends = (!first && !second) || (first && !second);
            EXPECT_EQ(files.length(1), ends ? 30u : 50u) << first << second;
        }
    }
}

TEST(Guesses, EndAtAnyStartWhoseBytesFit) {
    Files files;
    files.add(1, 0, 90, 200).add(2, 30, 40, 100).add(3, 80, 10, 50);
    files.settle(Agreement::agrees);
    EXPECT_EQ(files.length(1), 30u);
    EXPECT_EQ(files.start_of(2), Hold::proven);
    EXPECT_EQ(files.start_of(3), Hold::recorded);  // the guess does not get there
    EXPECT_EQ(files.looks, 1);
}

TEST(Guesses, GoThroughAStartThatWasWrittenOver) {
    Files files;
    files.add(1, 0, 50, 100).add(2, 30, 40, 100);
    files.settle(Agreement::contradicts);
    EXPECT_EQ(files.length(1), 50u);
    EXPECT_EQ(files.start_of(2), Hold::guessed);
    EXPECT_TRUE(files.in_turns.empty());
}

TEST(Guesses, DoNotDoubtAFileThatOnlyStepsGetTo) {
    Files files;
    files.add(2, 30, 40, 100).add(1, 0, 20, 100);
    // Its last cluster is guessed one further on than one run would have it.
    files.claims.back().range = {10, 10};
    auto stepped = files.claims.back();
    stepped.range = {30, 10};
    files.claims.push_back(stepped);
    files.settle(Agreement::unknown);
    EXPECT_EQ(files.length(1), 20u);
    EXPECT_TRUE(files.in_turns.empty());
}

TEST(Guesses, DoNotDoubtAFileOfOneCluster) {
    Files files;
    files.add(1, 0, 50, 100).add(2, 30, 10, 100);
    files.settle(Agreement::unknown);
    EXPECT_EQ(files.length(1), 30u);
    EXPECT_TRUE(files.in_turns.empty());
}

TEST(Guesses, LookAtEveryStartOnce) {
    Files files;
    for (int i = 1; i <= 40; ++i) files.add(i, 0, 500, 100 + i * 100);
    files.add(99, 300, 40, 50);
    files.settle(Agreement::unknown);
    EXPECT_EQ(files.looks, 1);
}

}  // namespace undershelf
