#include "rating/foreign_starts.hpp"

#include <gtest/gtest.h>

namespace undershelf {

namespace {
Claimant lost(std::int64_t id, std::uint64_t at, std::uint64_t length) {
    Claimant c;
    c.id = id;
    c.identity = static_cast<std::uint64_t>(id) * 100;
    c.origin = Origin::deleted;
    c.ranges = {{at, length}};
    return c;
}
/// Who begins within entry 1, which passed a fair check and lies at bytes 8192 to 24,576.
std::unordered_map<std::uint64_t, std::int64_t> within(const Claimant& other, Agreement seen,
                                                       bool fair = true) {
    ForeignStarts starts;
    starts.add(lost(1, 8192, 16384), fair, 4096);
    starts.add(other, false, 4096);
    return starts.settle([&](std::int64_t) { return seen; });
}
}  // namespace

TEST(ForeignStarts, SpeakAgainstAFairPassOverThem) {
    const auto found = within(lost(2, 16384, 4096), Agreement::agrees);
    ASSERT_EQ(found.count(100), 1u);
    EXPECT_EQ(found.at(100), 2);
    EXPECT_TRUE(within(lost(2, 16384, 4096), Agreement::weakly).empty());
    EXPECT_TRUE(within(lost(2, 16384, 4096), Agreement::contradicts).empty());
    EXPECT_TRUE(within(lost(2, 16384, 4096), Agreement::agrees, false).empty());
}

TEST(ForeignStarts, CountWhereTheLayoutIsAssumed) {
    EXPECT_TRUE(within(lost(2, 8192, 4096), Agreement::agrees).empty()) << "the start is recorded";
    EXPECT_TRUE(within(lost(2, 24576, 4096), Agreement::agrees).empty()) << "it begins after it";
    auto same = lost(2, 16384, 4096);
    same.identity = 100;
    EXPECT_TRUE(within(same, Agreement::agrees).empty()) << "it is the same content";
    auto live = lost(2, 16384, 4096);
    live.origin = Origin::live;
    EXPECT_TRUE(within(live, Agreement::agrees).empty()) << "live files are weighed otherwise";
}

}  // namespace undershelf
