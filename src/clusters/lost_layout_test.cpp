#include "clusters/lost_layout.hpp"

#include <gtest/gtest.h>

#include <random>

namespace undershelf::clusters {

namespace {
using Runs = std::vector<Run>;
constexpr auto second = Timestamp::per_second;

/// The same answer cluster by cluster.
Runs simple_guess(const Grid& grid, const ClusterSet& busy, const std::vector<LiveExtent>& live,
                  Cluster start, std::uint64_t clusters, std::int64_t written) {
    Runs out{{start, 1}};
    for (std::uint64_t c = start + 1; c < grid.end() && cluster_total(out) < clusters; ++c) {
        bool was_in_use = busy.has(c);
        for (const auto& e : live) {
            const bool younger = written && e.created > written + 2 * second;
            if (c >= e.run.first && c < e.run.end() && younger) was_in_use = false;
        }
        if (!was_in_use) append_cluster(out, static_cast<Cluster>(c));
    }
    return out;
}
}  // namespace

TEST(LostLayout, AgreesWithLookingAtEveryCluster) {
    std::mt19937 random(11);
    const Grid grid{0, 512, 200};
    for (int round = 0; round < 300; ++round) {
        ClusterSet busy(200);
        std::vector<LiveExtent> live;
        for (Cluster c = 2; c < 190;) {
            const clusters::Run run{c + static_cast<Cluster>(random() % 6),
                                    1 + static_cast<std::uint32_t>(random() % 9)};
            if (random() % 3) live.push_back({run, static_cast<std::int64_t>(random() % 7) * second});
            busy.add(run);
            c = run.end();
        }
        const LostLayout layout(grid, busy, live);
        for (const std::int64_t written : {std::int64_t{0}, second, 3 * second}) {
            const auto start = static_cast<Cluster>(2 + random() % 190);
            const auto clusters = 1 + random() % 80;
            EXPECT_EQ(layout.guess(start, clusters, written, 1000).runs,
                      simple_guess(grid, busy, live, start, clusters, written));
        }
    }
}

TEST(LostLayout, TakesFilesOfTheSameTwoSecondsAsThereBefore) {
    const Grid grid{0, 512, 100};
    ClusterSet busy(100);
    busy.add(clusters::Run{12, 3});
    const auto written = 1000 * second;
    const auto guess = [&](std::int64_t created) {
        return LostLayout(grid, busy, {{{12, 3}, created}}).guess(10, 5, written, 100).runs;
    };
    const Runs around{{10, 2}, {15, 3}}, through{{10, 5}};
    EXPECT_EQ(guess(written + second), around);
    EXPECT_EQ(guess(written + 2 * second), around);
    EXPECT_EQ(guess(written + 2 * second + 1), through);
    EXPECT_EQ(guess(0), around);  // no date is none to be later by
}

TEST(LostLayout, SaysHowALiveFileWouldHaveBeenGuessed) {
    using Breaks = LostLayout::Breaks;
    const Grid grid{0, 512, 100};
    const auto written = 1000 * second;
    // An older file at 12 to 14, one of the same day but later at 20; everything else is free.
    const auto breaks = [&](const Runs& runs) {
        ClusterSet busy(100);
        std::vector<LiveExtent> live{{{12, 3}, written - second}, {{20, 1}, written + 60 * second}};
        for (const auto& r : runs) live.push_back({r, written});
        for (const auto& e : live) busy.add(e.run);
        return LostLayout(grid, busy, live).breaks_of(runs, written);
    };
    EXPECT_EQ(breaks({{10, 2}, {15, 3}}), Breaks::as_guessed);
    EXPECT_EQ(breaks({{10, 2}, {16, 3}}), Breaks::elsewhere);
    EXPECT_EQ(breaks({{10, 2}, {5, 3}}), Breaks::elsewhere);
    EXPECT_EQ(breaks({{10, 1}, {15, 3}}), Breaks::causeless);
    EXPECT_EQ(breaks({{10, 2}, {15, 2}, {30, 1}}), Breaks::elsewhere);
    // The younger one was not there yet.
    EXPECT_EQ(breaks({{18, 2}, {21, 3}}), Breaks::causeless);
}

TEST(LostLayout, StopsAtTheRunsItMayHave) {
    const Grid grid{0, 512, 1'000'000};
    ClusterSet busy(1'000'000);
    for (std::uint64_t c = 3; c < 1'000'000; c += 2) busy.add(c);
    const LostLayout layout(grid, busy, {});
    const auto guess = layout.guess(2, 400'000, 0, 100);
    EXPECT_TRUE(guess.cut);
    EXPECT_EQ(guess.runs.size(), 100u);
    EXPECT_FALSE(layout.guess(2, 50, 0, 100).cut);
    EXPECT_TRUE(layout.guess(2, 0, 0, 100).runs.empty());
}

}  // namespace undershelf::clusters
