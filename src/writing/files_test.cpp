#include "writing/files.hpp"

#include <gtest/gtest.h>
#include <sys/stat.h>

#include <filesystem>
#include <system_error>

#include "base/error.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf {

namespace {
ReplacedFile replaced(const std::string& path) {
    return {SourceGuard::no_source(), path};
}
}  // namespace

TEST(ReplacedFile, TakesThePlaceOfTheOldOne) {
    const test::TemporaryFolder folder;
    const auto file = replaced(folder.at("state.csv"));
    EXPECT_FALSE(std::filesystem::exists(file.path())) << "made before anything is written";
    file.write("first, and longer than the second\n");
    file.write("second\n");
    EXPECT_EQ(test::read_file(file.path()), "second\n");
    EXPECT_EQ(std::distance(std::filesystem::directory_iterator(folder.path()), {}), 1);
}

TEST(ReplacedFile, LeavesTheOldOneWhereTheNewOneCannotBeMade) {
    const test::TemporaryFolder folder;
    const auto file = replaced(folder.at("state.csv"));
    file.write("first\n");
    std::filesystem::create_directory(file.path() + new_suffix);
    EXPECT_THROW(file.write("second\n"), std::system_error);
    EXPECT_EQ(test::read_file(file.path()), "first\n");
}

TEST(ReplacedFile, WritesThroughNoLink) {
    const test::TemporaryFolder folder;
    const auto victim = folder.write("letter.txt", "mine\n");
    const auto file = replaced(folder.at("state.csv"));
    std::filesystem::create_symlink(victim, file.path() + new_suffix);
    std::filesystem::create_hard_link(victim, file.path());
    file.write("state\n");
    EXPECT_EQ(test::read_file(victim), "mine\n");
    EXPECT_EQ(test::read_file(file.path()), "state\n");
}

TEST(OpenToWrite, AsksTheGuardBeforeAnythingIsMade) {
    const test::TemporaryFolder folder;
    const SourceGuard guard(folder.write("card.img", "bytes"));
    EXPECT_THROW(open_to_write(guard, folder.at("card.img"), There::may), Error);
    EXPECT_THROW(ReplacedFile(guard, folder.at("card.img")), Error);
    EXPECT_EQ(test::read_file(folder.at("card.img")), "bytes");
}

TEST(OpenToWrite, OpensFilesAlone) {
    const test::TemporaryFolder folder;
    ASSERT_EQ(::mkfifo(folder.at("pipe").c_str(), 0600), 0);
    const auto guard = SourceGuard::no_source();
    EXPECT_THROW(open_to_write(guard, folder.at("pipe"), There::may), Error);
    EXPECT_THROW(open_to_write(guard, "/dev/null", There::must), Error);
    EXPECT_THROW(open_to_write(guard, folder.path().string(), There::may), Error);
    EXPECT_THROW(open_to_write(guard, folder.at("none"), There::must), std::system_error);
    EXPECT_TRUE(open_to_write(guard, folder.at("new"), There::must_not));
    EXPECT_THROW(open_to_write(guard, folder.at("new"), There::must_not), std::system_error);
}

}  // namespace undershelf
