#include "clusters/chain.hpp"

#include <gtest/gtest.h>

#include "support/memory_device.hpp"

namespace undershelf::clusters {

namespace {
using Runs = std::vector<Run>;
constexpr std::uint32_t end_mark = 0xFFFFFFFF;

Chain follow(const std::vector<std::uint32_t>& table, Cluster start, const ChainLimits& limits = {},
             const ClusterSet& taken = ClusterSet()) {
    const Grid grid{0, 512, static_cast<std::uint32_t>(table.size() - 2)};
    return follow_chain(grid, start, limits, taken, end_mark,
                        [&](Cluster c) { return std::optional<std::uint32_t>(table[c]); });
}
}  // namespace

TEST(Chain, EndsWhereItSays) {
    EXPECT_EQ(follow({0, 0, 3, 4, end_mark, 0}, 2).runs, (Runs{{2, 3}}));
    EXPECT_EQ(follow({0, 0, 3, 0}, 2).end, ChainEnd::free_entry);
    EXPECT_EQ(follow({0, 0, 77, 0}, 2).end, ChainEnd::outside);
}

TEST(Chain, CutsCirclesOfAnyLength) {
    for (std::uint32_t length = 1; length < 40; ++length) {
        std::vector<std::uint32_t> table(64);
        for (std::uint32_t i = 0; i < 10; ++i) table[2 + i] = 3 + i;
        for (std::uint32_t i = 0; i < length; ++i) table[12 + i] = 12 + (i + 1) % length;
        const auto chain = follow(table, 2);
        EXPECT_EQ(chain.end, ChainEnd::loop);
        EXPECT_EQ(chain.clusters(), 10 + length);
    }
}

TEST(Chain, IsFollowedOnlySoFarThroughOthers) {
    std::vector<std::uint32_t> table(1000);
    for (std::uint32_t c = 2; c < 999; ++c) table[c] = c + 1;
    ClusterSet taken(998);
    taken.add(clusters::Run{100, 900});
    const auto chain = follow(table, 2, {500, 120}, taken);
    EXPECT_TRUE(chain.crosses);
    EXPECT_EQ(chain.clusters(), 120u);
    EXPECT_EQ(follow(table, 2, {50, 120}, taken).clusters(), 50u);
}

TEST(TableEntries, KnowOnlyWhatTheSourceHolds) {
    const auto source = test::memory_source(ByteVector(1000, 0x21));
    const TableEntries claimed(*source, {600, 1ull << 32}, 32);
    EXPECT_EQ(claimed.on_source(), 100u);
    EXPECT_EQ(claimed.at(0), 0x21212121u);
    EXPECT_FALSE(claimed.at(100));
    EXPECT_FALSE(claimed.at(0x0FFFFFFF));
    EXPECT_EQ(TableEntries(*source, {600, 1ull << 32}, 12).at(1), 0x212u);
    EXPECT_EQ(TableEntries(*source, {5000, 512}, 16).on_source(), 0u);
}

}  // namespace undershelf::clusters
