#include "rating/early_ends.hpp"

#include <gtest/gtest.h>

#include "support/memory_device.hpp"

namespace undershelf {

namespace {
/// A file of `size` bytes at byte 1024 that holds up to `holds_to`; then zeros up to the end of that sector,
/// then something else.
bool shorter(std::uint64_t size, std::uint64_t holds_to, std::uint64_t zeros_to) {
    ByteVector bytes(16384, 0x55);
    std::fill(bytes.begin() + 1024 + static_cast<std::ptrdiff_t>(holds_to),
              bytes.begin() + 1024 + static_cast<std::ptrdiff_t>(zeros_to), std::uint8_t{0});
    Piece piece;
    piece.length = size;
    piece.source = 1024;
    return holds_a_shorter_file(*test::memory_source(bytes), {piece}, size, holds_to);
}
}  // namespace

TEST(EarlyEnds, AShorterFileIsFollowedByZeros) {
    EXPECT_TRUE(shorter(1263, 538, 1024));
    EXPECT_TRUE(shorter(1263, 538, 1263)) << "the driver cleared more";
    EXPECT_FALSE(shorter(1263, 538, 900)) << "something of its own follows";
    EXPECT_FALSE(shorter(1263, 538, 538));
    EXPECT_FALSE(shorter(1263, 1020, 1024)) << "a few zeros may be anything";
    EXPECT_FALSE(shorter(1263, 1024, 1536)) << "it ends with its sector";
    EXPECT_FALSE(shorter(1263, 1263, 1263));
    EXPECT_FALSE(shorter(600, 538, 600)) << "a little that the format does not speak of";
}

TEST(EarlyEnds, RecordersFillWholeSectors) {
    EXPECT_FALSE(shorter(4096, 538, 4096));
    EXPECT_TRUE(shorter(4096, 538, 1024));
}

TEST(EarlyEnds, ManyOfAVolumeAreMoreThanAQuarter) {
    EarlyEnds ends;
    for (int i = 0; i < 8; ++i) ends.add(2, false);
    for (int i = 0; i < 2; ++i) ends.add(2, true);
    EXPECT_FALSE(ends.of(2).many());
    ends.add(2, true);
    EXPECT_TRUE(ends.of(2).many());
    EXPECT_FALSE(ends.of(3).many());
    for (int i = 0; i < 2; ++i) ends.add(3, true);
    EXPECT_FALSE(ends.of(3).many()) << "two are no habit";
}

}  // namespace undershelf
