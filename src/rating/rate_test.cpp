#include "rating/rate.hpp"

#include <gtest/gtest.h>

#include "support/fat_image.hpp"
#include "support/memory_device.hpp"

namespace undershelf {

namespace {

/// A source whose second KiB holds a text, and whose fifth holds a PNG's start.
ByteVector bytes() {
    ByteVector out(16 << 10);
    const auto text = test::sample_text("Curtain", 1024);
    std::copy(text.begin(), text.end(), out.begin() + 1024);
    const char png[] = "\x89PNG\r\n\x1a\n";
    std::copy_n(png, 8, out.begin() + 4096);
    std::fill(out.begin() + 4104, out.begin() + 6144, 0x5A);
    return out;
}

Subject lost(std::uint64_t at, std::uint64_t size, const std::string& ext, Layout layout = Layout::known) {
    Subject s;
    s.id = 1;
    s.identity = 1;
    s.origin = Origin::deleted;
    s.layout = layout;
    s.size = size;
    s.ext = ext;
    s.rank = 100;
    Piece p;
    p.known = layout == Layout::known;
    p.source = at;
    p.length = size;
    s.pieces = {p};
    return s;
}

Rating rate(Subject& s, std::vector<Claim> others = {}, RangeSet bad = {}) {
    const auto source = test::memory_source(bytes(), std::move(bad));
    ByteVector all(16 << 10);
    source->read(0, all);  // so that bad ranges are known
    others.push_back({s.pieces.empty() ? ByteRange{} : s.pieces[0].source_range(), s.identity, s.id, s.rank});
    const ClaimMap claims(std::move(others));
    return Rater(*source, claims).rate(s);
}

const Evidence* find(const Subject& s, Fact fact) {
    for (const auto& e : s.evidence) {
        if (e.fact == fact) return &e;
    }
    return nullptr;
}

}  // namespace

TEST(Rate, TrustsAKnownLayoutThatNobodyContests) {
    auto s = lost(1024, 900, "txt");
    const auto r = rate(s);
    EXPECT_EQ(r.grade, Grade::likely);
    EXPECT_GT(r.chance, 0.9);
    EXPECT_TRUE(find(s, Fact::content_agrees));
}

TEST(Rate, CountsBytesOfLiveFilesAsLost) {
    auto s = lost(1024, 1000, "txt");
    const auto r = rate(s, {{{1524, 5000}, 2, 2, live_rank}});
    EXPECT_EQ(r.grade, Grade::partial);
    EXPECT_EQ(r.chance, 0);
    EXPECT_NEAR(r.left, 0.5, 0.02);
    ASSERT_TRUE(find(s, Fact::overwritten));
    EXPECT_EQ(find(s, Fact::overwritten)->a, 500u);
    EXPECT_EQ(find(s, Fact::overwritten)->b, 2u);
}

TEST(Rate, CallsWhatIsWhollyOverwrittenGone) {
    auto s = lost(1024, 1000, "txt");
    EXPECT_EQ(rate(s, {{{0, 9000}, 0, 0, live_rank}}).grade, Grade::gone);
}

TEST(Rate, SharesTheDoubtAmongEquals) {
    auto s = lost(1024, 1000, "txt");
    const auto r = rate(s, {{{1524, 5000}, 2, 2, 100}});
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
    const auto r = rate(s, {}, RangeSet({{4608, 512}}));
    EXPECT_EQ(r.grade, Grade::partial);
    EXPECT_EQ(find(s, Fact::unreadable)->a, 512u);
}

TEST(Rate, SeesTheSourcesEnd) {
    auto s = lost(16000, 2000, "bin");
    EXPECT_EQ(rate(s).grade, Grade::partial);
    EXPECT_EQ(find(s, Fact::beyond_source)->a, 16000u + 2000 - 16384);
}

TEST(Rate, WeighsTheHabitsOfTheVolume) {
    auto tidy = lost(4096, 2000, "png", Layout::assumed), scattered = tidy;
    tidy.evidence = {{Fact::contiguous, 1, 0, {}}, {Fact::layout_prior, 50, 50, {}}};
    scattered.evidence = {{Fact::contiguous, 1, 0, {}}, {Fact::layout_prior, 5, 50, {}}};
    EXPECT_GT(rate(tidy).chance, 0.9);
    EXPECT_LT(rate(scattered).chance, 0.2);
}

TEST(Rate, TrustsEmptyFilesOnlyWhereThereAreSome) {
    auto usual = lost(0, 0, "txt"), unusual = usual;
    usual.pieces.clear();
    unusual.pieces.clear();
    usual.evidence = {{Fact::empty_slot, 30, 60, {}}};
    unusual.evidence = {{Fact::empty_slot, 0, 60, {}}};
    EXPECT_EQ(rate(usual).grade, Grade::likely);
    EXPECT_EQ(rate(unusual).grade, Grade::doubtful);
}

TEST(Rate, KeepsEveryStepToTheNumber) {
    // The product of all effects is the chance.
    std::vector<Subject> subjects{lost(1024, 900, "txt"), lost(4096, 2000, "pdf"),
                                  lost(4096, 2000, "png", Layout::assumed),
                                  lost(1024, 1000, "txt", Layout::assumed), lost(8192, 2000, "bin")};
    subjects[2].evidence = {{Fact::contiguous, 1, 0, {}}, {Fact::layout_prior, 50, 50, {}}};
    subjects[3].evidence = {
        {Fact::next_free, 2, 0, {}}, {Fact::layout_prior, 5, 9, {}}, {Fact::high_word_argued, 9, 2, {}}};
    for (auto& s : subjects) {
        for (const bool contested : {false, true}) {
            const auto r = contested ? rate(s, {{{s.pieces[0].source + 100, 100}, 2, 2, 100}}) : rate(s);
            double product = 1;
            for (const auto& e : s.evidence) product *= e.chance;
            EXPECT_NEAR(product, r.chance, 1e-4) << s.ext << contested;
        }
    }
}

TEST(Rate, GivesTheSameAnswerTwice) {
    auto s = lost(1024, 1000, "txt");
    const auto first = rate(s, {{{1524, 100}, 2, 2, live_rank}});
    const auto facts = s.evidence;
    EXPECT_EQ(rate(s, {{{1524, 100}, 2, 2, live_rank}}), first);
    EXPECT_EQ(s.evidence, facts);
}

}  // namespace undershelf
