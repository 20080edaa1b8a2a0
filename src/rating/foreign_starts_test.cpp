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
/// Who begins within entry 1, which lies at bytes 8192 to 24,576, the first 4096 of them recorded.
std::optional<std::int64_t> within(const Claimant& other, Agreement seen) {
    const auto content = lost(1, 8192, 16384);
    ForeignStarts starts;
    starts.add(content);
    starts.add(other);
    starts.settle();
    return starts.within(content, 4096, [&](std::int64_t) { return seen; });
}
}  // namespace

TEST(ForeignStarts, CountWhereTheirOwnContentIs) {
    EXPECT_EQ(within(lost(2, 16384, 4096), Agreement::agrees), 2);
    EXPECT_FALSE(within(lost(2, 16384, 4096), Agreement::weakly));
    EXPECT_FALSE(within(lost(2, 16384, 4096), Agreement::contradicts));
}

TEST(ForeignStarts, CountWhereTheLayoutIsAssumed) {
    EXPECT_FALSE(within(lost(2, 8192, 4096), Agreement::agrees)) << "the start is recorded";
    EXPECT_FALSE(within(lost(2, 24576, 4096), Agreement::agrees)) << "it begins after it";
    auto same = lost(2, 16384, 4096);
    same.identity = 100;
    EXPECT_FALSE(within(same, Agreement::agrees)) << "it is the same content";
    auto live = lost(2, 16384, 4096);
    live.origin = Origin::live;
    EXPECT_FALSE(within(live, Agreement::agrees)) << "live files are weighed otherwise";
}

}  // namespace undershelf
