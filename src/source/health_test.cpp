#include "source/health.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "support/temporary_folder.hpp"

namespace undershelf {

namespace {

namespace fs = std::filesystem;
using ::testing::Contains;
using ::testing::ElementsAre;
using ::testing::HasSubstr;
using ::testing::IsEmpty;
using ::testing::Not;

/// A made-up system with one disk and one partition on it.
class Health : public ::testing::Test {
  protected:
    Health() {
        file("sys/devices/usb/sdq/queue/rotational", "0\n");
        file("sys/devices/usb/sdq/queue/discard_max_bytes", "2147450880\n");
        file("sys/devices/usb/sdq/device/ioerr_cnt", "0x0\n");
        file("sys/devices/usb/sdq/device/model", "Lantern 64  \n");
        file("sys/devices/usb/sdq/device/serial", "CL-0042\n");
        file("sys/devices/usb/sdq/sdq1/partition", "1\n");
        fs::create_directories(folder.path() / "sys/dev/block");
        fs::create_symlink("../../devices/usb/sdq", folder.path() / "sys/dev/block/65:0");
        fs::create_symlink("../../devices/usb/sdq/sdq1", folder.path() / "sys/dev/block/65:1");
        file("mounts", "");
    }
    void file(const std::string& name, const std::string& text) {
        fs::create_directories((folder.path() / name).parent_path());
        folder.write(name, text);
    }
    DriveHealth look(const std::string& number = "65:0") { return drive_health_of(number, places).value(); }

    test::TemporaryFolder folder;
    const SystemPlaces places{folder.at("sys"), folder.at("mounts"), folder.at("etc")};
};

}  // namespace

TEST_F(Health, IsReadFromWhatTheSystemSays) {
    for (const auto* number : {"65:0", "65:1"}) {
        const auto h = look(number);
        EXPECT_EQ(h.disk, "sdq");
        EXPECT_EQ(h.model, "Lantern 64");
        EXPECT_EQ(h.serial, "CL-0042");
        EXPECT_EQ(h.rotating, false);
        EXPECT_EQ(h.takes_discards, true);
        EXPECT_EQ(h.errors, 0u);
        EXPECT_FALSE(h.timer_discards);
        EXPECT_THAT(h.mounts, IsEmpty());
    }
    EXPECT_EQ(drive_health_of("9:9", places), std::nullopt);
    EXPECT_EQ(drive_health(folder.at("mounts"), places), std::nullopt) << "a file is no drive";
}

TEST_F(Health, SaysThatErrorsWereMet) {
    EXPECT_THAT(in_words(look()), Not(Contains(HasSubstr("failed commands"))));
    file("sys/devices/usb/sdq/device/ioerr_cnt", "0x1f\n");
    EXPECT_EQ(look().errors, 31u);
    EXPECT_THAT(in_words(look()).front(), HasSubstr("31 failed commands on sdq"));
}

TEST_F(Health, SaysWhereItIsMountedAndWhetherThatDiscards) {
    file("mounts",
         "40 1 65:1 / /media/green\\040room rw,relatime - vfat /dev/sdq1 rw,discard\n"
         "41 1 8:1 / / rw - ext4 /dev/sda1 rw,discard\n");
    auto h = look();
    ASSERT_EQ(h.mounts.size(), 1u);
    EXPECT_EQ(h.mounts[0].point, "/media/green room");
    EXPECT_TRUE(h.mounts[0].writable);
    EXPECT_TRUE(h.mounts[0].discards);
    EXPECT_THAT(in_words(h), ElementsAre(HasSubstr("mounted for writing at /media/green room"),
                                         HasSubstr("discards whatever is deleted at once")));
    file("mounts", "40 1 65:1 / /media/x ro,relatime - vfat /dev/sdq1 ro\n");
    h = look();
    EXPECT_FALSE(h.mounts[0].writable);
    EXPECT_FALSE(h.mounts[0].discards);
}

TEST_F(Health, KnowsTimersThatDiscard) {
    file("mounts", "40 1 65:1 / /media/x ro - vfat /dev/sdq1 ro\n");
    file("etc/systemd/system/timers.target.wants/fstrim.timer", "");
    EXPECT_TRUE(look().timer_discards);
    EXPECT_THAT(in_words(look()), Contains(HasSubstr("once a week")));
}

TEST_F(Health, ARotatingDiskKeepsWhatWasDeleted) {
    file("sys/devices/usb/sdq/queue/rotational", "1\n");
    file("sys/devices/usb/sdq/queue/discard_max_bytes", "0\n");
    EXPECT_THAT(in_words(look()), ElementsAre(HasSubstr("a rotating disk that takes no discards")));
}

}  // namespace undershelf
