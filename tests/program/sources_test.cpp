// What is attached, on a made-up system.

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <filesystem>
#include <nlohmann/json.hpp>

#include "support/formatted_card.hpp"
#include "support/made_up_system.hpp"
#include "support/program_test.hpp"

namespace undershelf::test {

namespace {

using nlohmann::json;
using ::testing::AllOf;
using ::testing::HasSubstr;
using ::testing::Not;

class Sources : public ProgramTest {
  protected:
    /// With stand-ins for other programs in `bin`.
    Ran run(const std::vector<std::string>& arguments) {
        std::string line = "PATH='" + folder.at("bin") + "':\"$PATH\" " UNDERSHELF_PROGRAM;
        for (const auto& a : arguments) line += " '" + a + "'";
        return run_in(folder.path().string(), {"sh", "-c", line});
    }
    MadeUpSystem system{folder};
};

}  // namespace

TEST_F(Sources, AreListedWithTheirNextCommands) {
    system.add_stick();
    system.add_system_disk();
    system.file("proc/self/mountinfo",
                "40 1 8:1 / / rw - ext4 /dev/sda1 rw\n41 1 65:1 / /media/green rw - vfat /dev/sdq1 rw\n");
    const auto ran = run({"sources", "--root", folder.path().string()});
    EXPECT_EQ(ran.status, 0) << ran.err;
    EXPECT_THAT(
        ran.out,
        AllOf(HasSubstr("Lantern 64, serial CL-0042, usb, solid-state, removable"), HasSubstr("GREEN ROOM"),
              HasSubstr("umount /media/green"), HasSubstr("blockdev --setro /dev/sdq"),
              HasSubstr("undershelf inspect /dev/sdq"), HasSubstr("The running system is on it")));
    EXPECT_THAT(ran.out, Not(HasSubstr("undershelf inspect /dev/sda")));
    const auto all = parsed(run({"sources", "--root", folder.path().string(), "--format", "json"}).out);
    ASSERT_EQ(all["sources"].size(), 2u);
    EXPECT_EQ(all["sources"][0]["of_system"], true);
    EXPECT_EQ(all["sources"][1]["partitions"][0]["mounts"][0]["point"], "/media/green");
}

TEST_F(Sources, AskTheDriveForItsHealthOnlyWhenTold) {
    system.add_stick();
    system.file("bin/smartctl",
                "#!/bin/sh\ntouch asked\necho '{\"ata_smart_attributes\": {\"table\": [{\"id\": 5, \"raw\": "
                "{\"value\": 812}}]}}'\n");
    std::filesystem::permissions(folder.path() / "bin/smartctl", std::filesystem::perms::owner_all);
    run({"sources", "--root", folder.path().string()});
    EXPECT_FALSE(std::filesystem::exists(folder.path() / "asked"));
    const auto ran = run({"sources", "--root", folder.path().string(), "--health"});
    EXPECT_TRUE(std::filesystem::exists(folder.path() / "asked"));
    EXPECT_THAT(ran.out, AllOf(HasSubstr("It has moved 812 sectors; copy it first."),
                               HasSubstr("IMAGE --metadata-first")));
}

TEST_F(Sources, ImageFilesAreListedTheSameWay) {
    folder.write("card 1.img", formatted_card().bytes());
    const auto ran = run({"sources", "card 1.img"});
    EXPECT_EQ(ran.status, 0) << ran.err;
    EXPECT_THAT(ran.out, AllOf(HasSubstr("image file"), HasSubstr("undershelf scan 'card 1.img'")));
    const auto row = parsed(run({"sources", "card 1.img", "--format", "json"}).out)["sources"][0];
    EXPECT_EQ(row["kind"], "image");
    EXPECT_EQ(row["volumes"].size(), 1u);
    EXPECT_EQ(row["steps"][0]["argv"][1], "scan");
    EXPECT_EQ(run({"sources", "none.img"}).status, 3);
}

TEST_F(Sources, ASystemThatShowsNoneSaysSo) {
    const auto ran = run({"sources", "--root", folder.path().string()});
    EXPECT_EQ(ran.status, 0);
    EXPECT_THAT(ran.out, HasSubstr("No drive is attached"));
    EXPECT_THAT(run({"inspect"}).err, HasSubstr("`undershelf sources` shows the drives"));
}

}  // namespace undershelf::test
