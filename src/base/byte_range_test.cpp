#include "base/byte_range.hpp"

#include <gtest/gtest.h>

namespace undershelf {

TEST(RangeSet, JoinsWhatTouches) {
    RangeSet set({{100, 50}, {0, 10}, {150, 50}, {5, 10}});
    EXPECT_EQ(set.ranges(), (std::vector<ByteRange>{{0, 15}, {100, 100}}));
    set.add({15, 85});
    EXPECT_EQ(set.ranges(), (std::vector<ByteRange>{{0, 200}}));
}

TEST(RangeSet, TellsTheParts) {
    const RangeSet set({{100, 50}, {200, 50}});
    EXPECT_EQ(set.within({120, 100}), (std::vector<ByteRange>{{120, 30}, {200, 20}}));
    EXPECT_TRUE(set.within({150, 50}).empty());
    EXPECT_TRUE(set.contains(149));
    EXPECT_FALSE(set.contains(150));
    EXPECT_FALSE(set.touches({150, 50}));
    EXPECT_EQ(set.bytes(), 100u);
}

TEST(RangeSet, CutsWhatEndsBeyondAllNumbers) {
    constexpr auto last = ~std::uint64_t{0};
    RangeSet set({{5, last}, {last, 2}});
    EXPECT_EQ(set.ranges(), (std::vector<ByteRange>{{5, last - 5}}));
    RangeSet added;
    added.add({last - 1, last});
    EXPECT_EQ(added.ranges(), (std::vector<ByteRange>{{last - 1, 1}}));
}

TEST(RangeSet, LeavesOutNothing) {
    RangeSet set;
    set.add({10, 0});
    EXPECT_TRUE(set.empty());
    set.add({10, 1});
    set.add({20, 1});
    set.add({11, 9});
    EXPECT_EQ(set.ranges(), (std::vector<ByteRange>{{10, 11}}));
}

}  // namespace undershelf
