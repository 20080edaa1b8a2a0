#include "rating/whole_finds.hpp"

#include <gtest/gtest.h>

namespace undershelf {

TEST(WholeFinds, TellOfTheirVolume) {
    WholeFinds finds;
    const auto unknown = finds.share(1);
    EXPECT_GE(unknown, 0.8);
    for (int i = 0; i < 50; ++i) finds.add(1, true), finds.add(2, i % 2 == 0);
    EXPECT_GT(finds.share(1), 0.95);
    EXPECT_LT(finds.share(1), 0.97);
    EXPECT_LT(finds.share(2), 0.6);
    EXPECT_EQ(finds.share(3), unknown);
}

}  // namespace undershelf
