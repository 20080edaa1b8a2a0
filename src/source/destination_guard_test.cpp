#include "source/destination_guard.hpp"

#include <gtest/gtest.h>

#include "base/error.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf {

namespace {
bool refused(const std::string& source, const std::string& destination,
             const std::string& table = "/proc/self/mountinfo") {
    try {
        refuse_destination_on_source(source, destination, table);
        return false;
    } catch (const Error& e) {
        EXPECT_EQ(e.trouble(), Trouble::refused);
        return true;
    }
}
}  // namespace

TEST(DestinationGuard, KnowsTheSourceByAnyName) {
    const test::TemporaryFolder folder;
    const auto source = folder.write("card.img", "bytes");
    std::filesystem::create_symlink(source, folder.at("soft"));
    std::filesystem::create_hard_link(source, folder.at("hard"));
    EXPECT_TRUE(refused(source, source));
    EXPECT_TRUE(refused(source, folder.at("soft")));
    EXPECT_TRUE(refused(source, folder.at("hard")));
    EXPECT_TRUE(refused(source, folder.at("./nowhere/../card.img")));
    EXPECT_FALSE(refused(source, folder.at("other.img")));
    EXPECT_FALSE(refused(source, folder.at("new/folder")));
}

TEST(DestinationGuard, KnowsFileSystemsMountedFromTheSource) {
    const test::TemporaryFolder folder;
    const auto source = folder.write("card.img", "bytes"), other = folder.write("other.img", "bytes");
    std::filesystem::create_directories(folder.at("mount point/inner"));
    const auto line = [&](const std::string& point, const std::string& from) {
        return "36 35 7:99 / " + point + " rw,noatime shared:1 - vfat " + from + " rw\n";
    };
    const auto escaped = folder.at("mount\\040point");
    const auto table = folder.write("mountinfo", line("/", "/dev/none") + line(escaped, source));
    EXPECT_TRUE(refused(source, folder.at("mount point/inner/out"), table));
    EXPECT_TRUE(refused(source, folder.at("mount point"), table));
    EXPECT_FALSE(refused(source, folder.at("mount pointer"), table));
    EXPECT_FALSE(refused(other, folder.at("mount point/out"), table));
    // Another file system mounted over it later is what counts.
    const auto over = folder.write("mountinfo", line(escaped, source) + line(escaped, other));
    EXPECT_FALSE(refused(source, folder.at("mount point/out"), over));
}

}  // namespace undershelf
