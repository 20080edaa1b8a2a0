#include "export/safe_names.hpp"

#include <gtest/gtest.h>

#include "base/text.hpp"

namespace undershelf {

TEST(SafeComponent, StaysInsideItsFolder) {
    EXPECT_EQ(safe_component(".."), "__");
    EXPECT_EQ(safe_component("."), "_");
    EXPECT_EQ(safe_component(""), "_");
    EXPECT_EQ(safe_component("../../etc/passwd"), ".._.._etc_passwd");
    EXPECT_EQ(safe_component(std::string("a\0b\n\x1b[2Jc", 9)), "a_b__[2Jc");
    EXPECT_EQ(safe_component("C:\\x?.txt"), "C__x_.txt");
    EXPECT_EQ(safe_component("100%.csv"), "100_.csv");
}

TEST(SafeComponent, AvoidsReservedNames) {
    EXPECT_EQ(safe_component("NUL"), "_NUL");
    EXPECT_EQ(safe_component("com1.txt"), "_com1.txt");
    EXPECT_EQ(safe_component("console.txt"), "console.txt");
    EXPECT_EQ(safe_component("dots..."), "dots.._");
}

TEST(SafeComponent, CutsLongNamesAtCharacters) {
    std::string name;
    for (int i = 0; i < 200; ++i) name += "操";
    const auto safe = safe_component(name + ".jpeg");
    EXPECT_LE(safe.size(), 240u);
    EXPECT_TRUE(safe.ends_with("~.jpeg"));
    EXPECT_EQ(composed(safe), safe);
}

TEST(SafePaths, KeepsTwinsApart) {
    SafePaths paths;
    EXPECT_EQ(paths.file("deleted", "a.txt"), "deleted/a.txt");
    EXPECT_EQ(paths.file("deleted", "A.TXT"), "deleted/A~2.TXT");
    EXPECT_EQ(paths.file("deleted", "a.txt"), "deleted/a~3.txt");
    EXPECT_EQ(paths.file("deleted", "a:txt"), "deleted/a_txt");
    EXPECT_EQ(paths.file("deleted", "a?txt"), "deleted/a_txt~2");
    EXPECT_EQ(paths.file("",
                         "Fa\xCC\x88"
                         "den"),
              "Fäden");
    EXPECT_EQ(paths.file("", "FÄDEN"), "FÄDEN~2");
}

TEST(SafePaths, GivesAFolderOnePath) {
    SafePaths paths;
    EXPECT_EQ(paths.folder("live/Scripts"), "live/Scripts");
    EXPECT_EQ(paths.folder("live/Scripts"), "live/Scripts");
    EXPECT_EQ(paths.folder("live/SCRIPTS"), "live/SCRIPTS~2");
    EXPECT_EQ(paths.file("live", "scripts"), "live/scripts~3");
}

}  // namespace undershelf
