#include "base/printable.hpp"

#include <gtest/gtest.h>

namespace undershelf {

TEST(Printable, KnowsWhatSteersATerminal) {
    for (const char32_t c : {0x00, 0x07, 0x0A, 0x1B, 0x7F, 0x85, 0x9B, 0x2028, 0x202A, 0x202E, 0x2066, 0x2069,
                             0xD800, 0xFDD0, 0xFFFE, 0xFFFF, 0x1FFFE, 0x10FFFF})
        EXPECT_TRUE(is_unprintable(c)) << static_cast<unsigned>(c);
    for (const char32_t c : {0x20, 0x7E, 0xA0, 0xE4, 0x200D, 0x202F, 0x2065, 0x206A, 0xFFFD, 0x1F34F})
        EXPECT_FALSE(is_unprintable(c)) << static_cast<unsigned>(c);
}

TEST(Printable, ReplacesAndSpells) {
    const std::string name = "a\x1B[2J\u009B\u202Eb\uFFFEä.txt";
    EXPECT_EQ(without_controls(name), "a?[2J??b?ä.txt");
    EXPECT_EQ(with_controls_spelled(name), "a\\u001B[2J\\u009B\\u202Eb\\uFFFEä.txt");
    EXPECT_EQ(without_controls("cut \xC3"), "cut ?");
    EXPECT_EQ(without_controls("plain"), "plain");
}

}  // namespace undershelf
