#include "base/number_lines.hpp"

#include <gtest/gtest.h>

namespace undershelf {

TEST(NumberLines, ComeBackAsTheyWereWritten) {
    NumberLines lines;
    lines.add("width", {32});
    lines.add("stretch", {0, 18446744073709551615ull});
    lines.add("stretch", {7, 8});
    const NumberLines read(lines.text());
    EXPECT_EQ(read.one("width"), 32u);
    EXPECT_EQ(read.all("stretch", 2), (std::vector<NumberLines::Numbers>{{0, ~0ull}, {7, 8}}));
    EXPECT_EQ(read.text(), lines.text());
}

TEST(NumberLines, LeaveOutWhatIsNone) {
    const NumberLines read("width x\n\nstretch 1 2 3\nsize 99999999999999999999999\ncount 4\n");
    EXPECT_FALSE(read.one("width"));
    EXPECT_FALSE(read.one("size"));
    EXPECT_TRUE(read.all("stretch", 2).empty());
    EXPECT_EQ(read.one("count"), 4u);
}

}  // namespace undershelf
