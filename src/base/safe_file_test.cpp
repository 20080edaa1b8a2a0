#include "base/safe_file.hpp"

#include <gtest/gtest.h>

#include <system_error>

#include "support/temporary_folder.hpp"

namespace undershelf {

TEST(SafeFile, TakesThePlaceOfTheOldOne) {
    const test::TemporaryFolder folder;
    const auto path = folder.at("state.csv");
    replace_file(path, "first, and longer than the second\n");
    replace_file(path, "second\n");
    EXPECT_EQ(test::read_file(path), "second\n");
    EXPECT_FALSE(std::filesystem::exists(path + "~"));
}

TEST(SafeFile, LeavesTheOldOneWhereTheNewOneCannotBeMade) {
    const test::TemporaryFolder folder;
    const auto path = folder.at("state.csv");
    replace_file(path, "first\n");
    std::filesystem::create_directory(path + "~");
    EXPECT_THROW(replace_file(path, "second\n"), std::system_error);
    EXPECT_EQ(test::read_file(path), "first\n");
}

}  // namespace undershelf
