#include "volume/pairs.hpp"

#include <gtest/gtest.h>

namespace undershelf {

namespace {
bool pair(std::string_view a, std::string_view b) {
    return makes_pair(pair_role(a), static_cast<unsigned>(pair_role(b)));
}
}  // namespace

TEST(Pairs, AreMadeByExtensions) {
    EXPECT_TRUE(pair("cr2", "jpg"));
    EXPECT_TRUE(pair("jpg", "nef"));
    EXPECT_TRUE(pair("heic", "mov"));
    EXPECT_TRUE(pair("mp4", "thm"));
    EXPECT_TRUE(pair("xmp", "docx"));
    EXPECT_TRUE(pair("docx", "xmp"));
}

TEST(Pairs, AreNotMadeOfEverything) {
    EXPECT_FALSE(pair("cr2", "mov"));
    EXPECT_FALSE(pair("jpg", "jpeg"));
    EXPECT_FALSE(pair("xmp", "thm"));
    EXPECT_FALSE(pair("docx", "pdf"));
    EXPECT_FALSE(pair("", ""));
    EXPECT_EQ(pair_role("pg"), PairRole::other);
}

}  // namespace undershelf
