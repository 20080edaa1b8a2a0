#include "base/ensure.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

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

}  // namespace
}  // namespace undershelf
