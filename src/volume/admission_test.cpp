#include "volume/admission.hpp"

#include <gtest/gtest.h>

#include "support/collector.hpp"

namespace undershelf {

namespace {
Volume volume_of(std::uint64_t size) {
    Volume v;
    v.size = size;
    v.cluster_size = 512;
    return v;
}
Entry file(std::uint64_t size, PieceKind kind) {
    Entry e;
    e.size = size;
    e.layout = Layout::known;
    Piece p;
    p.kind = kind;
    p.length = size;
    e.pieces.push_back(p);
    return e;
}
}  // namespace

TEST(Admission, CutsSizesThatNoFileCanHave) {
    Budget budget(100, 51'200);
    auto e = file(~0ull, PieceKind::zeros);
    admit(e, volume_of(51'200), budget);
    EXPECT_EQ(e.size, bound::file_size);
    EXPECT_EQ(e.pieces.back().length, bound::file_size);
    EXPECT_TRUE(test::has_fact(e, Fact::bad_metadata));
}

TEST(Admission, SaysWhenAFileIsLongerThanItsVolume) {
    Budget budget(100, 51'200);
    auto missing = file(1ull << 40, PieceKind::missing);
    admit(missing, volume_of(51'200), budget);
    EXPECT_TRUE(test::has_fact(missing, Fact::bad_metadata));
    // One that is missing as far as the volume goes may have been as long.
    auto as_long = file(51'201, PieceKind::missing);
    as_long.pieces.front().offset = 1;
    as_long.pieces.front().length = 51'200;
    admit(as_long, volume_of(51'200), budget);
    EXPECT_FALSE(test::has_fact(as_long, Fact::bad_metadata));
    // Holes may be longer than anything.
    auto sparse = file(1ull << 40, PieceKind::zeros);
    admit(sparse, volume_of(51'200), budget);
    EXPECT_FALSE(test::has_fact(sparse, Fact::bad_metadata));
}

TEST(Admission, DropsPiecesBehindTheEnd) {
    Budget budget(100, 51'200);
    auto e = file(1000, PieceKind::stored);
    Piece behind;
    behind.offset = 5000;
    behind.length = 10;
    e.pieces.push_back(behind);
    e.pieces.front().length = 2000;
    admit(e, volume_of(51'200), budget);
    ASSERT_EQ(e.pieces.size(), 1u);
    EXPECT_EQ(e.pieces.front().length, 1000u);
}

TEST(Admission, CoarsensClaimsBeyondTheBudget) {
    Budget budget(10, 5120);
    Entry many = file(512, PieceKind::stored);
    many.claims.assign(1'000'000, {512, 512});
    many.claims.back() = {4096, 512};
    auto live = many, lost = many;
    lost.origin = Origin::deleted;
    admit(live, volume_of(5120), budget);
    admit(lost, volume_of(5120), budget);
    EXPECT_EQ(live.claims, (std::vector<ByteRange>{{512, 4096}}));
    EXPECT_EQ(lost.claims, (std::vector<ByteRange>{{512, 512}}));
    EXPECT_EQ(budget.remarks().size(), 1u);
}

TEST(Budget, GrowsWithWhatIsFound) {
    Budget budget(1000, 512'000);
    const auto before = budget.left(Budget::Cost::crossing);
    for (int i = 0; i < 100; ++i) budget.found();
    EXPECT_GT(budget.left(Budget::Cost::crossing), before);
    EXPECT_EQ(budget.take(Budget::Cost::guess, 10), 10u);
    EXPECT_FALSE(budget.spent(Budget::Cost::guess));
    EXPECT_LT(budget.take(Budget::Cost::guess, ~0ull), ~0ull);
    EXPECT_TRUE(budget.spent(Budget::Cost::guess));
    EXPECT_EQ(budget.take(Budget::Cost::guess, 1), 0u);
}

TEST(Budget, KnowsTheSourceBetterThanTheVolumesHead) {
    auto v = volume_of(1ull << 60);
    v.offset = 1000;
    EXPECT_EQ(Budget::of(v, 1000 + 51'200).units(), 101u);
    EXPECT_EQ(Budget::of(v, 10).units(), 1u);
}

}  // namespace undershelf
