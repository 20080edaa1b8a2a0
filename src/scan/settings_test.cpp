#include "scan/settings.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

namespace undershelf {

using ::testing::ElementsAre;
using ::testing::IsEmpty;

TEST(Settings, AreAskedForByTheirOptionsAgain) {
    ScanOptions o;
    EXPECT_THAT(settings_options(settings_text(o)), IsEmpty());
    o.read.code_page = "866";
    o.read.zone_minutes = -330;
    o.unreadable_list = "bad places; all.csv";
    EXPECT_THAT(settings_options(settings_text(o)),
                ElementsAre("--code-page", "866", "--zone", "-05:30", "--unreadable", "bad places; all.csv"));
    EXPECT_THAT(settings_options("something else"), IsEmpty());
}

}  // namespace undershelf
