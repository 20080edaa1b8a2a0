#include "rating/later_use.hpp"

#include <gtest/gtest.h>

namespace undershelf {

namespace {
Claimant claimant(Origin origin, Layout layout, std::int64_t written, std::uint64_t bytes) {
    Claimant c;
    c.volume = 1;
    c.origin = origin;
    c.layout = layout;
    c.modified = written;
    c.ranges = {{0, bytes}};
    return c;
}
}  // namespace

TEST(LaterUse, CountsGuessedBytesOfLaterFilesInTheSpaceThatIsFree) {
    LaterUse use({{1, {1000, 10, 0}}});
    use.add(claimant(Origin::live, Layout::known, 500, 600));
    use.add(claimant(Origin::deleted, Layout::assumed, 100, 110));
    use.add(claimant(Origin::deleted, Layout::assumed, 200, 210));
    use.add(claimant(Origin::deleted, Layout::known, 300, 390));  // where it lay is known
    use.settle();
    EXPECT_DOUBLE_EQ(use.share(1, 50).of_free, 0.75);
    EXPECT_DOUBLE_EQ(use.share(1, 100).of_free, 0.5);
    EXPECT_DOUBLE_EQ(use.share(1, 200).of_free, 0);
    EXPECT_DOUBLE_EQ(use.share(1, unknown_rank).of_free, 0);
    EXPECT_DOUBLE_EQ(use.share(2, 50).of_free, 0);
}

TEST(LaterUse, IsNeverMoreThanAll) {
    LaterUse use({{1, {1000, 10, 0}}});
    for (int i = 0; i < 5; ++i) use.add(claimant(Origin::deleted, Layout::assumed, 100, 900));
    use.settle();
    EXPECT_DOUBLE_EQ(use.share(1, 50).of_free, 1);
    // A volume that is full by more than it holds has no room that one could tell anything of.
    use.add(claimant(Origin::live, Layout::known, 1, 5000));
    EXPECT_DOUBLE_EQ(use.share(1, 50).of_free, 1);
}

TEST(LaterUse, FilesWithAChainWentIntoGaps) {
    LaterUse use({{1, {1'000'000, 10, 0}}});
    use.add(claimant(Origin::deleted, Layout::known, 100, 400));
    auto kept = claimant(Origin::former, Layout::known, 100, 400);  // it was there to the end
    use.add(kept);
    kept.deleted_before = true;
    use.add(kept);
    use.add(claimant(Origin::deleted, Layout::assumed, 300, 500));
    auto chained = claimant(Origin::deleted, Layout::assumed, 200, 210);
    chained.chained = true;
    use.add(chained);
    use.settle();
    EXPECT_DOUBLE_EQ(use.share(1, 50).of_gaps, 200. / 800);
    EXPECT_DOUBLE_EQ(use.share(1, 200).of_gaps, 0);
}

}  // namespace undershelf
