// The source itself: rooms know only rooms below them.

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <filesystem>

#include "support/program.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf::test {

namespace {

using ::testing::HasSubstr;

class Rooms : public ::testing::Test {
  protected:
    void SetUp() override {
        write("docs/architecture.md",
              "```\nattic/    on top\nleft/ right/   side by side\ncellar/   below\n```\n");
        write("src/attic/a.cpp", "#include \"left/b.hpp\"\n#include \"cellar/d.hpp\"\n");
        write("src/left/b.hpp", "#include \"cellar/d.hpp\"\n");
        write("src/right/c.hpp", "");
        write("src/cellar/d.hpp", "#include <vector>\n");
    }
    void write(const std::string& path, const std::string& text) {
        std::filesystem::create_directories(std::filesystem::path(folder.at(path)).parent_path());
        folder.write(path, text);
    }
    static Ran check(const std::string& repository) {
        return run_in(repository, {"python3", UNDERSHELF_SCRIPTS_DIR "/check_rooms.py", repository});
    }
    Ran check() { return check(folder.path().string()); }

    TemporaryFolder folder;
};

}  // namespace

TEST(Source, KeepsTheOrderOfItsRooms) {
    const std::string scripts = UNDERSHELF_SCRIPTS_DIR;
    const auto ran = run_in("/", {"python3", scripts + "/check_rooms.py"});
    EXPECT_EQ(ran.status, 0) << ran.out << ran.err;
}

TEST_F(Rooms, InOrderAreLeftAlone) {
    EXPECT_EQ(check().status, 0) << check().out;
    // Tests stand outside of the order.
    write("src/cellar/d_test.cpp", "#include \"attic/a.hpp\"\n");
    EXPECT_EQ(check().status, 0);
}

TEST_F(Rooms, KnowNothingAboveThemOrBesideThem) {
    write("src/cellar/d.hpp", "#include \"right/c.hpp\"\n");
    EXPECT_EQ(check().status, 1);
    EXPECT_THAT(check().out,
                HasSubstr("src/cellar/d.hpp includes right/c.hpp: right/ is not below cellar/."));
    write("src/cellar/d.hpp", "");
    write("src/left/b.hpp", "#include \"right/c.hpp\"\n");
    EXPECT_THAT(check().out, HasSubstr("right/ is not below left/."));
}

TEST_F(Rooms, AreAllInTheDocument) {
    write("src/shed/e.hpp", "");
    EXPECT_THAT(check().out, HasSubstr("does not know the room shed/"));
    std::filesystem::remove_all(folder.at("src/right"));
    EXPECT_THAT(check().out, HasSubstr("names the room right/, which does not exist"));
}

TEST_F(Rooms, HaveNoCirclesAndNoLongFiles) {
    write("src/left/b.hpp", "#include \"left/f.hpp\"\n");
    write("src/left/f.hpp", "#include \"left/b.hpp\"\n");
    write("src/right/c.hpp", std::string(401, '\n'));
    const auto ran = check();
    EXPECT_EQ(ran.status, 1);
    EXPECT_THAT(ran.out, HasSubstr("include each other: left/b.hpp -> left/f.hpp -> left/b.hpp"));
    EXPECT_THAT(ran.out, HasSubstr("src/right/c.hpp has 401 lines"));
}

}  // namespace undershelf::test
