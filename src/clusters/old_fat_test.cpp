#include "clusters/old_fat.hpp"

#include <gtest/gtest.h>

#include "support/disk_image.hpp"
#include "support/memory_device.hpp"
#include "support/traces.hpp"

namespace undershelf::clusters {

namespace {
constexpr std::uint32_t kind = 3;

/// A table of 32-bit entries at `place`, of 1024 clusters that all say "the next one".
ByteVector disk(std::uint64_t place, std::uint64_t size) {
    ByteVector out(static_cast<std::size_t>(size));
    for (std::uint32_t i = 2; i < 1024; ++i) test::put_number(out, place + i * 4, i + 1, 4);
    return out;
}

test::Traces stretches(const ByteVector& bytes) {
    test::Traces out;
    for (const auto& s : find_fat_stretches({bytes, 0, bytes.size()}, 0x0FFFFFFF, {32, 16, 12}))
        out.all.push_back(trace_of(s, kind));
    return out;
}
}  // namespace

TEST(OldFat, AStretchSaysWhereItsTableBegan) {
    auto bytes = disk(8192, 64 << 10);
    // Only its third sector is left, and half a sector of the last one.
    std::fill(bytes.begin() + 8192, bytes.begin() + 8192 + 1024, 0x55);
    std::fill(bytes.begin() + 8192 + 1536, bytes.begin() + 8192 + 4096 - 256, 0x55);
    const auto tables = tables_of(stretches(bytes), kind, {});
    ASSERT_EQ(tables.size(), 1u);
    EXPECT_EQ(tables[0].place, 8192u);
    EXPECT_EQ(tables[0].bits, 32u);
    EXPECT_EQ(tables[0].left.ranges(), (std::vector<ByteRange>{{8192 + 1024, 512}, {8192 + 3584, 512}}));
    EXPECT_TRUE(tables_of(stretches(bytes), kind, RangeSet({{0, 64 << 10}})).empty());
}

TEST(OldFat, SectorsBetweenStretchesBelongToItWhenTheyCould) {
    auto bytes = disk(8192, 64 << 10);
    // One sector has chains of one cluster each, and says nothing by itself; one holds something else.
    for (std::size_t i = 0; i < 128; ++i) test::put_number(bytes, 8192 + 1024 + i * 4, 0x0FFFFFFF, 4);
    std::fill(bytes.begin() + 8192 + 2048, bytes.begin() + 8192 + 2560, 0x41);
    const auto source = test::memory_source(bytes);
    const Grid grid{8192 + 4096, 512, 1022};
    const auto tables = tables_before(*source, tables_of(stretches(bytes), kind, {}), grid, 0, {});
    ASSERT_EQ(tables.size(), 1u);
    EXPECT_TRUE(tables[0].left.contains(8192 + 1024));
    EXPECT_FALSE(tables[0].left.contains(8192 + 2048));
    EXPECT_TRUE(tables[0].left.contains(8192));
    // A grid that began before it, or has far fewer clusters, had another one.
    EXPECT_TRUE(
        tables_before(*source, tables_of(stretches(bytes), kind, {}), {8192, 512, 1022}, 0, {}).empty());
}

TEST(OldFat, DataThatCountsUpIsNoTableUnlessItBeginsAtASector) {
    ByteVector bytes(64 << 10);
    for (std::uint32_t i = 0; i < 2048; ++i) test::put_number(bytes, 4096 + i * 2, i, 2);
    EXPECT_TRUE(stretches(bytes).all.empty());
}

}  // namespace undershelf::clusters
