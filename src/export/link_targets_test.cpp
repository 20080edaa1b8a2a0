#include "export/link_targets.hpp"

#include <gtest/gtest.h>

#include "base/slash_path.hpp"

namespace undershelf {

TEST(LinkTargets, AreReadInTheFolderOfTheLink) {
    EXPECT_EQ(path_led_to("Props", "../Scripts/play.txt", '/'), "Scripts/play.txt");
    EXPECT_EQ(path_led_to("Props/old", ".//poster.jpg", '/'), "Props/old/poster.jpg");
    EXPECT_EQ(path_led_to("", "a/../b", '/'), "b");
    EXPECT_EQ(path_led_to("Props", "/Scripts/", '/'), "Scripts");
    EXPECT_EQ(path_led_to("Props", "..\\Scripts", '\\'), "Scripts");
    EXPECT_EQ(path_led_to("Props", "C:\\Scripts\\a", '\\'), "Scripts/a");
    EXPECT_EQ(path_led_to("Props", "..", '/'), "");
}

TEST(LinkTargets, NeverLeaveTheVolume) {
    EXPECT_FALSE(path_led_to("Props", "../../etc/passwd", '/'));
    EXPECT_FALSE(path_led_to("", "..", '/'));
    EXPECT_FALSE(path_led_to("Props", "/..", '/'));
    EXPECT_FALSE(path_led_to("a/b", "c/../../../../b", '/'));
}

TEST(SlashPath, GoesFromAFolderToAPath) {
    EXPECT_EQ(relative_path("data/live/Props", "data/live/Scripts/play.txt"), "../Scripts/play.txt");
    EXPECT_EQ(relative_path("data/live", "data/live/Scripts"), "Scripts");
    EXPECT_EQ(relative_path("data/live/a/b", "data/deleted/c"), "../../../deleted/c");
    EXPECT_EQ(relative_path("data/live/a", "data/live"), "../../live");
    EXPECT_EQ(relative_path("data/live/ab", "data/live/a/b"), "../a/b");
    EXPECT_EQ(relative_path("", "data/a"), "data/a");
}

}  // namespace undershelf
