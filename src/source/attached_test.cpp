#include "source/attached.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "support/made_up_system.hpp"

namespace undershelf {

namespace {

class Attached : public ::testing::Test {
  protected:
    std::vector<AttachedDrive> look() const {
        return attached_drives(SystemPlaces::under(folder.path().string()));
    }

    test::TemporaryFolder folder;
    test::MadeUpSystem system{folder};
};

}  // namespace

TEST_F(Attached, IsListedWithItsPartitions) {
    system.add_stick();
    const auto all = look();
    ASSERT_EQ(all.size(), 1u);
    const auto& d = all[0];
    EXPECT_EQ(d.path, "/dev/sdq");
    EXPECT_EQ(d.health.model, "Lantern 64");
    EXPECT_EQ(d.health.serial, "CL-0042");
    EXPECT_EQ(d.bus, "usb");
    EXPECT_EQ(d.size, 64ull << 30);
    EXPECT_TRUE(d.removable);
    EXPECT_FALSE(d.read_only);
    EXPECT_FALSE(d.of_system);
    EXPECT_EQ(d.readable, Readable::yes);
    ASSERT_EQ(d.partitions.size(), 1u);
    EXPECT_EQ(d.partitions[0].path, "/dev/sdq1");
    EXPECT_EQ(d.partitions[0].offset, 1u << 20);
    EXPECT_EQ(d.partitions[0].file_system, "vfat");
    EXPECT_EQ(d.partitions[0].label, "GREEN ROOM");
}

TEST_F(Attached, TheSystemsOwnDriveIsKnownByItsMountsAndSwaps) {
    system.add_stick();
    system.add_system_disk();
    system.file("proc/self/mountinfo",
                "40 1 8:1 / / rw - ext4 /dev/sda1 rw\n41 1 65:1 / /media/green rw - vfat /dev/sdq1 rw\n");
    auto all = look();
    ASSERT_EQ(all.size(), 2u);
    EXPECT_TRUE(all[0].of_system);
    EXPECT_EQ(all[0].health.serial, "FL-77") << "by udev, where sysfs has none";
    EXPECT_EQ(all[0].partitions[0].file_system, "ext4") << "by its mount";
    EXPECT_FALSE(all[1].of_system);
    ASSERT_EQ(all[1].partitions[0].mounts.size(), 1u);
    EXPECT_EQ(all[1].partitions[0].mounts[0].point, "/media/green");
    system.file("proc/self/mountinfo", "");
    EXPECT_FALSE(look()[0].of_system);
    system.file("proc/swaps",
                "Filename Type Size Used Priority\n" + std::string("/dev/sda2") + " partition 1 0 -2\n");
    all = look();
    EXPECT_TRUE(all[0].of_system);
    EXPECT_TRUE(all[0].partitions[1].swap);
}

TEST_F(Attached, WhatIsNoDriveIsNot) {
    int minor = 0;
    for (const auto* name : {"loop0", "ram0", "zram0", "dm-0", "md127"})
        system.add_drive(name, std::string("sys/devices/virtual/block/") + name + "/",
                         "7:" + std::to_string(minor++), "2048");
    system.add_drive("sdr", "sys/devices/pci/usb2/block/sdr/", "65:16", "0");
    EXPECT_TRUE(look().empty()) << "a reader without a card has no size";
    EXPECT_EQ(attached_drive(folder.at("proc/swaps")), std::nullopt);
}

TEST_F(Attached, StrangeFilesAreNoHarm) {
    system.add_stick();
    const std::string at = "sys/devices/pci/usb1/host6/block/sdq/";
    system.file(at + "size", "many\n");
    EXPECT_TRUE(look().empty());
    system.file(at + "size", "2048\n");
    system.file(at + "sdq1/start", "-5\n");
    system.file("run/udev/data/b65:1",
                "E:\nE:=\nE:ID_FS_LABEL_ENC=\\xZZ\\x4\nE:ID_FS_TYPE=" + std::string(9000, 'a'));
    const auto all = look();
    ASSERT_EQ(all.size(), 1u);
    EXPECT_EQ(all[0].partitions[0].offset, 0u);
    EXPECT_EQ(all[0].partitions[0].label, "\\xZZ\\x4");
    EXPECT_EQ(all[0].partitions[0].file_system, "");
}

}  // namespace undershelf
