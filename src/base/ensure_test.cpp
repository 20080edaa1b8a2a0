#include "base/ensure.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "base/byte_range.hpp"

namespace undershelf {
namespace {

TEST(Ensure, SaysWhatIsWrongAndWhere) {
    EXPECT_NO_THROW(ensure(true, "nothing"));
    try {
        ensure(false, "a file was not copied whole");
        FAIL() << "it went on";
    } catch (const OwnMistake& e) {
        EXPECT_THAT(e.what(), testing::MatchesRegex(
                                  "a file was not copied whole \\(.*src/base/ensure_test.cpp:[0-9]+\\)"));
    }
}

TEST(Ensure, RangesDoNotEndBeyondAllNumbers) {
    EXPECT_THROW(RangeSet().add({~0ull, 2}), OwnMistake);
    EXPECT_THROW(RangeSet({{5, ~0ull}}), OwnMistake);
    EXPECT_EQ(RangeSet({{5, ~0ull - 5}}).bytes(), ~0ull - 5);
}

}  // namespace
}  // namespace undershelf
