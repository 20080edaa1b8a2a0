#include "rating/kind_habits.hpp"

#include <gtest/gtest.h>

namespace undershelf {

namespace {

constexpr VolumeTraits traits{1 << 20, 4096, 0, 0};

Claimant file(const std::string& ext, std::size_t runs) {
    Claimant c;
    c.id = 1;
    c.volume = 1;
    c.layout = Layout::known;
    c.ext = ext;
    for (std::size_t i = 0; i < runs; ++i) c.ranges.push_back({i * 100'000, 8192});
    return c;
}

KindHabits with(const std::vector<std::pair<std::size_t, Claimant>>& files) {
    KindHabits out;
    for (const auto& [n, c] : files) {
        for (std::size_t i = 0; i < n; ++i) out.add(c, traits);
    }
    return out;
}

}  // namespace

TEST(KindHabits, ThatAreTheirOwnCountMoreThanTheVolumes) {
    // Nine sounds of nine lie in six pieces, the photos in one.
    const auto habits = with({{9, file("wav", 6)}, {40, file("jpg", 1)}});
    EXPECT_LT(habits.one_run(1, "wav", 0.9), 0.1);
    EXPECT_GT(habits.one_run(1, "jpg", 0.9), 0.9);
    EXPECT_DOUBLE_EQ(habits.one_run(1, "txt", 0.9), 0.9);
    EXPECT_DOUBLE_EQ(habits.one_run(2, "wav", 0.9), 0.9);
}

TEST(KindHabits, AreToldByLostFilesThatContestEachOther) {
    KindHabits habits;
    EXPECT_DOUBLE_EQ(habits.one_run(1, "wav", 0.96), 0.96);
    for (int i = 0; i < 4; ++i) habits.add_contested(1, "wav");
    EXPECT_LT(habits.one_run(1, "wav", 0.96), 0.2);
}

TEST(KindHabits, AreNotToldByASingleFile) {
    EXPECT_GT(with({{1, file("wav", 2)}, {40, file("jpg", 1)}}).one_run(1, "wav", 0.96), 0.85);
    EXPECT_LT(with({{3, file("wav", 2)}, {40, file("jpg", 1)}}).one_run(1, "wav", 0.96), 0.3);
    // Where all kinds are in pieces now and then, this one is like the others.
    EXPECT_GT(with({{2, file("wav", 2)}, {40, file("jpg", 1)}, {20, file("png", 2)}}).one_run(1, "wav", 0.9),
              0.85);
}

TEST(KindHabits, AreToldByKnownAndProvenLayoutsOfMoreThanOneCluster) {
    auto guessed = file("wav", 2);
    guessed.layout = Layout::assumed;
    auto proven = guessed;
    proven.verified = true;
    auto small = file("wav", 1);
    small.ranges[0].length = 4096;
    const auto habits = with({{5, guessed}, {3, proven}, {7, small}});
    EXPECT_EQ(habits.of(1, "wav").files, 3u);
    EXPECT_EQ(habits.of(1, "wav").one_run, 0u);
}

}  // namespace undershelf
