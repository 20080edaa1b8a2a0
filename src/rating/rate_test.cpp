#include "rating/rate.hpp"

#include <gtest/gtest.h>

#include "support/rated.hpp"

namespace undershelf {

using test::find;
using test::live;
using test::lost;
using test::Others;
using test::rate;
using test::written;

TEST(Rate, TrustsAKnownLayoutThatNobodyContests) {
    auto s = lost(1024, 900, "txt");
    const auto r = rate(s);
    EXPECT_EQ(r.grade, Grade::likely);
    EXPECT_GT(r.chance, 0.9);
    EXPECT_TRUE(find(s, Fact::content_agrees) && find(s, Fact::text_throughout));
}

TEST(Rate, CountsBytesOfLiveFilesAsLost) {
    auto s = lost(1024, 1000, "txt");
    const auto r = rate(s, {{{1524, 5000}, 2, 2, live}});
    EXPECT_EQ(r.grade, Grade::partial);
    EXPECT_EQ(r.chance, 0);
    EXPECT_NEAR(r.left, 0.5, 0.02);
    ASSERT_TRUE(find(s, Fact::overwritten));
    EXPECT_EQ(find(s, Fact::overwritten)->a, 500u);
    EXPECT_EQ(find(s, Fact::overwritten)->b, 2u);
}

TEST(Rate, CallsWhatIsWhollyOverwrittenGone) {
    auto s = lost(1024, 1000, "txt");
    EXPECT_EQ(rate(s, {{{0, 9000}, 0, 0, live}}).grade, Grade::gone);
}

TEST(Rate, SharesTheDoubtAmongEquals) {
    auto s = lost(1024, 1000, "txt");
    const auto r = rate(s, {{{1524, 5000}, 2, 2, written(100)}});
    EXPECT_EQ(r.grade, Grade::doubtful);
    EXPECT_LT(r.chance, 0.5);
    EXPECT_TRUE(find(s, Fact::contested));
}

TEST(Rate, DoubtsContentOfAnotherKind) {
    auto s = lost(4096, 2000, "pdf");
    const auto r = rate(s);
    EXPECT_EQ(r.grade, Grade::doubtful);
    EXPECT_LT(r.chance, 0.1);
    EXPECT_EQ(find(s, Fact::content_contradicts)->text, "PNG picture");
}

TEST(Rate, KnowsZerosWhereNoneBelong) {
    auto s = lost(8192, 2000, "jpg");
    EXPECT_EQ(rate(s).grade, Grade::gone);
    auto unknown = lost(8192, 2000, "bin");
    const auto r = rate(unknown);
    EXPECT_EQ(r.grade, Grade::doubtful);
    EXPECT_LT(r.chance, 0.2);
}

TEST(Rate, MarksUnreadableBytes) {
    auto s = lost(4096, 2000, "png");
    const auto r = rate(s, Others{.bad = RangeSet({{4608, 512}})});
    EXPECT_EQ(r.grade, Grade::partial);
    EXPECT_EQ(find(s, Fact::unreadable)->a, 512u);
}

TEST(Rate, SeesTheSourcesEnd) {
    auto s = lost(16000, 2000, "bin");
    EXPECT_EQ(rate(s).grade, Grade::partial);
    EXPECT_EQ(find(s, Fact::beyond_source)->a, 16000u + 2000 - 16384);
}

TEST(Rate, TrustsLessWhereLaterFilesMayHaveBeenAllOver) {
    Claimant later;
    later.volume = 1;
    later.origin = Origin::deleted;
    later.layout = Layout::assumed;
    later.modified = 200;
    later.ranges = {{8192, 8192}};
    auto s = lost(4608, 1024, "dat"), young = s, fitting = lost(4096, 1024, "png");
    EXPECT_EQ(rate(s).grade, Grade::likely);
    EXPECT_EQ(rate(s, Others{.claimants = {later}}).grade, Grade::doubtful);
    EXPECT_EQ(find(s, Fact::not_reused)->a, 47u);
    young.deleted = 200;
    EXPECT_EQ(rate(young, Others{.claimants = {later}}).grade, Grade::likely);
    // Bytes that fit make up for most of it.
    EXPECT_EQ(rate(fitting, Others{.claimants = {later}}).grade, Grade::likely);
}

TEST(Rate, ExpectsAnEndLikeThoseOfLiveFiles) {
    const std::vector<std::optional<FileEnd>> zeros(9, FileEnd{true}), others(9, FileEnd{false});
    for (const auto layout : {Layout::known, Layout::assumed}) {
        auto ends = lost(4096, 1990, "png", layout);  // within 5A, far from the end of its sector
        const auto alone = rate(ends).chance;
        EXPECT_LT(rate(ends, Others{.ends = zeros}).chance, 0.95 * alone);
        EXPECT_EQ(find(ends, Fact::slack)->text, "other data");
        // What these do tells nothing, or there are none to tell.
        EXPECT_EQ(rate(ends, Others{.ends = others}).chance, alone);
        EXPECT_EQ(rate(ends, Others{.ends = {FileEnd{true}, std::nullopt}}).chance, alone);
        EXPECT_FALSE(find(ends, Fact::slack));
        // What its first bytes deny, its end does not make up for.
        auto denied = lost(1024, 1000, "png", layout);
        EXPECT_LT(rate(denied, Others{.ends = zeros}).chance, 0.1);
        auto text = lost(1024, 1000, "txt", layout);
        const auto before = rate(text).chance;
        EXPECT_GE(rate(text, Others{.ends = zeros}).chance, 0.5 * before);
        EXPECT_TRUE(find(text, Fact::slack));
    }
}

TEST(Rate, ExpectsOfALostFileWhatItsSiblingsAre) {
    const auto text = [] {
        const auto t = test::sample_text("Prompt book", 600);
        return ByteVector(t.begin(), t.end());
    }();
    const ByteVector binary{0, 1, 2, 3, 4, 5};
    auto s = lost(4096, 1024, "dat");  // binary
    const auto alone = rate(s).chance;
    EXPECT_LT(rate(s, Others{.siblings = {text, text, text}}).chance, 0.9 * alone);
    EXPECT_EQ(find(s, Fact::siblings)->b, 0u);
    EXPECT_GT(rate(s, Others{.siblings = {binary, {9, 0, 9}, {7, 1}}}).chance, alone);
    EXPECT_EQ(find(s, Fact::siblings)->b, 1u);
}

TEST(Rate, TrustsEmptyFilesOnlyWhereThereAreSome) {
    auto usual = lost(0, 0, "txt");
    usual.pieces.clear();
    auto unusual = usual, unknown = usual;
    usual.evidence = {{Fact::empty_slot, 30, 60, {}}};
    unusual.evidence = {{Fact::empty_slot, 0, 60, {}}};
    EXPECT_EQ(rate(usual).grade, Grade::likely);
    EXPECT_EQ(rate(unusual).grade, Grade::doubtful);
    // Nothing is known where there is no live file; few files in general are empty.
    unknown.evidence = {{Fact::empty_slot, 0, 0, {}}};
    EXPECT_LT(rate(unknown).chance, 0.5);
}

TEST(Rate, FilesWithAChainMayHaveGoneIntoAGap) {
    // Of later date, in pieces, and twice as long as all that deleted files had left.
    Claimant gap;
    gap.volume = 1;
    gap.origin = Origin::deleted;
    gap.layout = Layout::known;
    gap.modified = 100;
    gap.ranges = {{0, 4000}};
    auto chained = gap;
    chained.layout = Layout::assumed;
    chained.chained = true;
    chained.modified = 200;
    chained.ranges = {{50'000, 9000}};
    auto s = lost(4096, 2000, "dat");
    s.rank = 100;
    const auto alone = rate(s).chance;
    EXPECT_LT(rate(s, Others{.claimants = {chained, gap}}).chance, 0.6 * alone);
    EXPECT_EQ(find(s, Fact::not_reused)->b, 1u);
    s.origin = Origin::former;  // what such a volume held to its end was no gap
    rate(s, Others{.claimants = {chained, gap}});
    EXPECT_EQ(find(s, Fact::not_reused)->b, 0u);
    s.evidence.push_back({Fact::deleted_before, 0, 0, {}});
    EXPECT_LT(rate(s, Others{.claimants = {chained, gap}}).chance, 0.6 * alone);
}

TEST(Rate, KeepsEveryStepToTheNumber) {
    // The product of all effects is the chance.
    std::vector<Subject> subjects{lost(1024, 900, "txt"), lost(4096, 2000, "pdf"),
                                  lost(4096, 2000, "png", Layout::assumed),
                                  lost(1024, 1000, "txt", Layout::assumed), lost(8192, 2000, "bin")};
    subjects[2].evidence = {{Fact::contiguous, 1, 0, {}}, {Fact::layout_prior, 50, 50, {}}};
    subjects[3].evidence = {
        {Fact::next_free, 2, 0, {}}, {Fact::step_prior, 5, 9, {}}, {Fact::high_word_argued, 9, 2, {}}};
    for (auto& s : subjects) {
        for (const bool contested : {false, true}) {
            const auto r =
                contested ? rate(s, {{{s.pieces[0].source + 100, 100}, 2, 2, written(100)}}) : rate(s);
            double product = 1;
            for (const auto& e : s.evidence) product *= e.chance;
            EXPECT_NEAR(product, r.chance, 1e-4) << s.ext << contested;
        }
    }
}

TEST(Rate, GivesTheSameAnswerTwice) {
    auto s = lost(1024, 1000, "txt");
    const auto first = rate(s, {{{1524, 100}, 2, 2, live}});
    const auto facts = s.evidence;
    EXPECT_EQ(rate(s, {{{1524, 100}, 2, 2, live}}), first);
    EXPECT_EQ(s.evidence, facts);
}

TEST(Rate, AFileOfZerosIsBelievedWhereNoOtherLostFileReadsSo) {
    // 4 KiB of zeros, of a kind that nobody knows.
    const auto chance = [](std::size_t zeros, std::size_t others) {
        auto s = lost(8192, 4096, "bin");
        Others around;
        for (std::size_t i = 0; i < others; ++i) around.lost_starts.emplace_back(64, i < zeros ? 0 : 7);
        return rate(s, std::move(around)).chance;
    };
    EXPECT_LT(chance(0, 0), 0.06);
    EXPECT_GT(chance(0, 100), 0.7);
    EXPECT_LT(chance(50, 100), 0.05);
    EXPECT_LT(chance(2, 2), chance(0, 2));
}

TEST(Rate, DoubtsWhatHoldsAndEndsAsAShorterFile) {
    auto s = lost(12288, 1000, "dat");
    ASSERT_EQ(rate(s).grade, Grade::likely);
    s.check = CheckedContent{Strength::fair, true, 90};
    EXPECT_EQ(rate(s).grade, Grade::likely) << "something of its own follows there";
    s.check = CheckedContent{Strength::fair, true, 100};
    EXPECT_EQ(rate(s).grade, Grade::doubtful);
    ASSERT_TRUE(find(s, Fact::ends_early));
    s.check = CheckedContent{Strength::weak, true, 100};
    rate(s);
    EXPECT_FALSE(find(s, Fact::ends_early)) << "a weak check tells little";
}

TEST(Rate, DoesNotVerifyWhatHasAnothersStartWithinIt) {
    auto s = lost(1024, 900, "txt", Layout::assumed);
    s.check = CheckedContent{Strength::fair, true, 900};
    s.evidence.push_back({Fact::checked_whole, 900, 2, "text"});
    EXPECT_EQ(rate(s).grade, Grade::verified);
    EXPECT_NE(rate(s, Others{.foreign_starts = {{s.identity, 7}}}).grade, Grade::verified);
    ASSERT_TRUE(find(s, Fact::foreign_start));
    EXPECT_EQ(find(s, Fact::foreign_start)->a, 7u);
}

TEST(Rate, TheMoreLayoutsNearlyHoldTheLessAFairCheckSays) {
    const auto rated = [](Strength strength, std::uint64_t close) {
        auto s = lost(12288, 100, "dat", Layout::assumed);
        s.check = CheckedContent{strength, true, 100};
        s.evidence = {{Fact::mended, 3, close, "it was taken to lie in one run"},
                      {Fact::checked_whole, 100, static_cast<std::uint64_t>(strength), "jpeg"}};
        return rate(s);
    };
    EXPECT_EQ(rated(Strength::fair, 1).grade, Grade::verified);
    EXPECT_EQ(rated(Strength::fair, 14).grade, Grade::likely);
    EXPECT_LT(rated(Strength::fair, 14).chance, 0.88);
    EXPECT_EQ(rated(Strength::fair, 100).grade, Grade::doubtful);
    EXPECT_NEAR(rated(Strength::fair, 100).chance, 0.37, 0.03);
    EXPECT_EQ(rated(Strength::strong, 5000).grade, Grade::verified);
}

TEST(Rate, WhatWasDealtIsAsSureAsWhatTells) {
    const auto rated = [](const Evidence& why) {
        auto s = lost(4096, 2000, "dat", Layout::assumed);
        s.evidence = {why};
        return rate(s).chance;
    };
    const auto by_others = rated({Fact::dealt, 3, 2, {}}), by_rule = rated({Fact::dealt, 3, 0, {}}),
               left_over = rated({Fact::left_over, 3, 0, {}});
    EXPECT_GT(by_others, left_over);
    EXPECT_GT(left_over, by_rule);
    EXPECT_GT(by_rule, 0.4);
}

TEST(Rate, DoubtsAFormerVolumeOfWhichManyFilesEndEarly) {
    EarlyEnds ends;
    for (int i = 0; i < 6; ++i) ends.add(1, i % 2 == 0);
    auto s = lost(1024, 900, "txt");
    s.origin = Origin::former;
    EXPECT_EQ(rate(s, {.early_ends = ends}).grade, Grade::doubtful);
    ASSERT_TRUE(find(s, Fact::volume_ends_early));
    EXPECT_EQ(find(s, Fact::volume_ends_early)->a, 3u);
    // One that ends where its entry says is right all the same.
    s.check = CheckedContent{Strength::fair, true, 900};
    s.evidence.push_back({Fact::checked_whole, 900, 2, "text"});
    EXPECT_EQ(rate(s, {.early_ends = ends}).grade, Grade::verified);
    EXPECT_FALSE(find(s, Fact::volume_ends_early));
}

}  // namespace undershelf
