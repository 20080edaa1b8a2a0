#include <gtest/gtest.h>

#include "support/rated.hpp"

namespace undershelf {

using test::find;
using test::lost;
using test::Others;
using test::rate;

TEST(RateLayout, WeighsTheHabitsOfTheVolume) {
    auto tidy = lost(4096, 2000, "png", Layout::assumed), scattered = tidy;
    tidy.evidence = {{Fact::contiguous, 1, 0, {}}, {Fact::layout_prior, 50, 50, {}}};
    scattered.evidence = {{Fact::contiguous, 1, 0, {}}, {Fact::layout_prior, 5, 50, {}}};
    EXPECT_GT(rate(tidy).chance, 0.9);
    EXPECT_LT(rate(scattered).chance, 0.2);
}

TEST(RateLayout, WeighsHowStepsOfLiveFilesWouldHaveBeenGuessed) {
    auto untold = lost(4096, 2000, "png", Layout::assumed), right = untold, wrong = untold;
    untold.evidence = {{Fact::next_free, 2, 0, {}}, {Fact::step_prior, 0, 0, {}}};
    right.evidence = {{Fact::next_free, 2, 0, {}}, {Fact::step_prior, 20, 20, {}}};
    wrong.evidence = {{Fact::next_free, 2, 0, {}}, {Fact::step_prior, 0, 3, {}}};
    EXPECT_EQ(rate(untold).grade, Grade::likely);
    EXPECT_GT(rate(right).chance, 0.95);
    EXPECT_LT(rate(wrong).chance, 0.4);
}

TEST(RateLayout, SplitsAnAssumedLayoutIntoWhatIsRecordedAndWhatIsGuessed) {
    // The later one takes the first cluster by a guess, which is no match for a record; the rest it may have.
    const Claim guess{{4096, 2000}, 2, 2, {Hold::guessed, 0, 200}, false};
    auto s = lost(4096, 2000, "png", Layout::assumed);
    s.evidence = {{Fact::contiguous, 1, 0, {}}, {Fact::layout_prior, 50, 50, {}}};
    rate(s, {guess});
    ASSERT_TRUE(find(s, Fact::overwritten) && find(s, Fact::contested));
    EXPECT_EQ(find(s, Fact::overwritten)->a, 2000u - 512);
    EXPECT_EQ(find(s, Fact::contested)->a, 512u);
    auto recorded = lost(4096, 2000, "png");
    rate(recorded, {guess});
    EXPECT_FALSE(find(recorded, Fact::overwritten));
}

TEST(RateLayout, DoubtsAGuessWrittenInTurnsWithAnother) {
    auto s = lost(4096, 2000, "png", Layout::assumed);
    s.evidence = {{Fact::contiguous, 1, 0, {}}, {Fact::layout_prior, 50, 50, {}}};
    const auto r = rate(s, Others{.in_turns = {{1, 7}}});
    EXPECT_EQ(r.grade, Grade::doubtful);
    EXPECT_LT(r.chance, 0.4);
    EXPECT_EQ(find(s, Fact::in_turns)->b, 7u);
}

TEST(RateLayout, AKindThatLiesInPiecesIsNotGuessedToLieInOne) {
    auto s = lost(4096, 2000, "dat", Layout::assumed);
    s.evidence = {{Fact::contiguous, 1, 0, {}}, {Fact::layout_prior, 50, 50, {}}};
    const auto alone = rate(s).chance;
    Claimant sound;
    sound.id = 7;
    sound.volume = 1;
    sound.layout = Layout::known;
    sound.ext = "dat";
    sound.ranges = {{20'000, 8000}, {40'000, 8000}};
    EXPECT_LT(rate(s, Others{.claimants = std::vector(9, sound)}).chance, 0.2 * alone);
    EXPECT_EQ(find(s, Fact::kind_habit)->b, 9u);
}

TEST(RateLayout, WeighsWhatALayoutSuffersFrom) {
    auto sound = lost(1024, 900, "txt");
    const auto chance = rate(sound).chance;
    const Evidence high_word{Fact::high_word_argued, 9, 1, {}}, one_of_two{Fact::high_word_argued, 9, 2, {}};
    for (const auto& [evidence, share] : {std::pair<Evidence, double>{{Fact::torn_record, 0, 0, {}}, 0.7},
                                          {{Fact::chain_crosses, 0, 0, {}}, 0.5},
                                          {{Fact::bad_metadata, 0, 0, {}}, 0.5},
                                          {{Fact::after_end_mark, 0, 0, {}}, 0.9},
                                          {{Fact::in_slack, 0, 0, {}}, 0.9},
                                          {high_word, 0.97},
                                          {one_of_two, 0.6}}) {
        auto s = lost(1024, 900, "txt");
        s.evidence = {evidence};
        EXPECT_NEAR(rate(s).chance, share * chance, 1e-6)
            << static_cast<int>(evidence.fact) << ' ' << evidence.b;
    }
}

}  // namespace undershelf
