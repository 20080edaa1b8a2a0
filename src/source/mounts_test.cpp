#include "source/mounts.hpp"

#include <gtest/gtest.h>

#include "support/temporary_folder.hpp"

namespace undershelf {

TEST(Mounts, AreReadFromTheTable) {
    const test::TemporaryFolder folder;
    const auto table = folder.write(
        "mountinfo",
        "25 1 8:1 / /media/puppet\\040shop rw,relatime shared:2 master:1 - ext4 /dev/sda1 rw,discard\n"
        "26 1 0:44 / /over rw - overlay overlay rw,lowerdir=/media/puppet\\040shop/low,upperdir=/up\n"
        "broken line\n"
        "27 1 7:0 / /loop ro - vfat /dev/loop0 ro,codepage=437\n");
    const auto mounts = read_mounts(table);
    ASSERT_EQ(mounts.size(), 3u);
    EXPECT_EQ(mounts[0].device, "8:1");
    EXPECT_EQ(mounts[0].point, "/media/puppet shop");
    EXPECT_EQ(mounts[0].from, "/dev/sda1");
    EXPECT_EQ(mounts[0].type, "ext4");
    EXPECT_TRUE(mounts[0].has_option("discard"));
    EXPECT_TRUE(mounts[0].has_option("relatime"));
    EXPECT_FALSE(mounts[0].has_option("disc"));
    EXPECT_EQ(mounts[1].option("lowerdir"), "/media/puppet shop/low");
    EXPECT_EQ(mounts[1].option("upperdir"), "/up");
    EXPECT_EQ(mounts[1].option("workdir"), "");
    EXPECT_TRUE(mounts[2].has_option("ro"));
}

TEST(Mounts, WithoutATableAreNone) {
    const test::TemporaryFolder folder;
    EXPECT_TRUE(read_mounts(folder.at("nothing")).empty());
    EXPECT_TRUE(read_mounts(folder.write("empty", "")).empty());
}

}  // namespace undershelf
