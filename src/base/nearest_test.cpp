#include "base/nearest.hpp"

#include <gtest/gtest.h>

namespace undershelf {

namespace {
const std::vector<std::string> columns{"id", "grade", "size", "modified", "name", "path"};
}

TEST(Nearest, IsTheWordWithTheFewestSlips) {
    EXPECT_EQ(nearest("grad", columns), "grade");
    EXPECT_EQ(nearest("szie", columns), "size");
    EXPECT_EQ(nearest("Modifed", columns), "modified");
    EXPECT_EQ(nearest("mod", columns), "modified");
    EXPECT_EQ(nearest("paths", columns), "path");
}

TEST(Nearest, IsNoneWhereNothingIsNear) {
    EXPECT_EQ(nearest("colour", columns), "");
    EXPECT_EQ(nearest("xy", columns), "");
    EXPECT_EQ(nearest("", columns), "");
    EXPECT_EQ(nearest(std::string(100'000, 'a'), columns), "");
    EXPECT_EQ(did_you_mean("colour", columns), "");
    EXPECT_EQ(did_you_mean("grad", columns), " Did you mean `grade`?");
}

}  // namespace undershelf
