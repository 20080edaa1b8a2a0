#include "base/amounts.hpp"

#include <gtest/gtest.h>

#include "base/text.hpp"

namespace undershelf {

TEST(Amounts, OfBytesHaveUnits) {
    EXPECT_EQ(human_size(1023), "1023 B");
    EXPECT_EQ(human_size(1024), "1.0 KiB");
    EXPECT_EQ(human_size((1 << 20) - 1), "1.0 MiB");
    EXPECT_EQ(grouped(1234567), "1,234,567");
    EXPECT_EQ(grouped(123), "123");
}

TEST(Amounts, OfTimeAndSharesAreRounded) {
    EXPECT_EQ(human_time(0.2), "0 s");
    EXPECT_EQ(human_time(89), "89 s");
    EXPECT_EQ(human_time(600), "10 min");
    EXPECT_EQ(human_time(2 * 3600 + 20 * 60), "2 h 20 min");
    EXPECT_EQ(share_in_words(1), "all");
    EXPECT_EQ(share_in_words(0.999), "99 %");
    EXPECT_EQ(share_in_words(0), "0 %");
}

TEST(Amounts, HaveThingsWithThem) {
    EXPECT_EQ(counted(1, "file is", "files are"), "1 file is");
    EXPECT_EQ(counted(12'345, "file is", "files are"), "12,345 files are");
}

}  // namespace undershelf
