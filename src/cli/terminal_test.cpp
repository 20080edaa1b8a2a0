#include "cli/terminal.hpp"

#include <gtest/gtest.h>

namespace undershelf::cli {

TEST(Terminal, CountsColumns) {
    EXPECT_EQ(columns_of("abc"), 3);
    EXPECT_EQ(columns_of("操り"), 4);
    EXPECT_EQ(columns_of("a\xCC\x88"), 1);
}

TEST(Terminal, CutsInTheMiddle) {
    EXPECT_EQ(fitted("short", 10), "short");
    EXPECT_EQ(fitted("a very long name.txt", 11), "a ver…e.txt");
    EXPECT_LE(columns_of(fitted("操り人形の台本.txt", 8)), 8);
    EXPECT_EQ(padded("ab", 4), "ab  ");
    EXPECT_EQ(padded("ab", 4, true), "  ab");
}

TEST(Terminal, LetsNoNameSteerIt) {
    EXPECT_EQ(fitted("a\x1b[2J\n\xE2\x80\xAE"
                     "b",
                     20),
              "a?[2J??b");
}

TEST(Terminal, BreaksLines) {
    EXPECT_EQ(wrapped("one two three", 7), (std::vector<std::string>{"one two", "three"}));
}

}  // namespace undershelf::cli
