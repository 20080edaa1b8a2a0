#include "answers/sources.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

namespace undershelf {

using ::testing::AllOf;
using ::testing::Contains;
using ::testing::HasSubstr;
using ::testing::Not;

namespace {

ListedSource stick() {
    ListedSource out;
    auto& d = out.drive.emplace();
    d.path = "/dev/sdq";
    d.health.disk = "sdq";
    d.health.model = "Lantern 64";
    d.health.serial = "CL-0042";
    d.health.rotating = false;
    d.bus = "usb";
    d.removable = true;
    return out;
}

std::vector<std::string> commands(const Plan& plan) {
    std::vector<std::string> out;
    for (const auto& s : plan.steps) out.push_back(command_line(s.argv));
    return out;
}

}  // namespace

TEST(Sources, ADriveIsProtectedAndThenLookedAt) {
    EXPECT_THAT(commands(plan_for(stick(), true)),
                ::testing::ElementsAre("blockdev --setro /dev/sdq", "undershelf inspect /dev/sdq"));
    auto mounted = stick();
    mounted.drive->health.mounts.push_back({"/media/green room", true, false});
    EXPECT_THAT(commands(plan_for(mounted, false)),
                ::testing::ElementsAre("sudo umount '/media/green room'", "sudo blockdev --setro /dev/sdq",
                                       "undershelf inspect /dev/sdq"));
    auto protected_one = stick();
    protected_one.drive->read_only = true;
    EXPECT_THAT(commands(plan_for(protected_one, true)),
                ::testing::ElementsAre("undershelf inspect /dev/sdq"));
}

TEST(Sources, MissingRightsAreSaidWithWhatHelps) {
    auto s = stick();
    s.drive->readable = Readable::no;
    EXPECT_THAT(notes_on(s), Contains(HasSubstr("You may not read /dev/sdq")));
    EXPECT_THAT(commands(plan_for(s, false)).back(), "sudo undershelf inspect /dev/sdq");
    s.drive->readable = Readable::no_device_file;
    EXPECT_THAT(notes_on(s), Contains(HasSubstr("no device file")));
}

TEST(Sources, AFailingDriveIsCopiedFirst) {
    auto s = stick();
    s.drive->health.errors = 3;
    EXPECT_EQ(commands(plan_for(s, true)).back(), "undershelf capture /dev/sdq IMAGE --metadata-first");
    s = stick();
    s.smart = SmartAnswer{SmartHealth{}, ""};
    s.smart->health->moved_sectors = 812;
    EXPECT_EQ(commands(plan_for(s, true)).back(), "undershelf capture /dev/sdq IMAGE --metadata-first");
    EXPECT_THAT(notes_on(s), Contains("It has moved 812 sectors; copy it first."));
    s.smart = SmartAnswer{std::nullopt, "it did not answer"};
    EXPECT_THAT(notes_on(s), Contains(HasSubstr("it did not answer")));
}

TEST(Sources, TheRunningSystemsDriveIsLeftAlone) {
    auto s = stick();
    s.drive->of_system = true;
    s.drive->health.mounts.push_back({"/", true, true});
    EXPECT_TRUE(plan_for(s, true).steps.empty());
    EXPECT_THAT(plan_for(s, true).next.front(), HasSubstr("another system"));
    EXPECT_THAT(notes_on(s), Not(Contains(HasSubstr("unmount"))));
}

TEST(Sources, AreObjectsForPrograms) {
    const auto json = sources_json({stick()}, true);
    const auto& row = json["sources"][0];
    EXPECT_EQ(row["path"], "/dev/sdq");
    EXPECT_EQ(row["serial"], "CL-0042");
    EXPECT_EQ(row["rotating"], false);
    EXPECT_TRUE(row["errors"].is_null());
    EXPECT_TRUE(row["health"].is_null());
    EXPECT_EQ(row["steps"].size(), 2u);
    EXPECT_EQ(description_of(stick()), "Lantern 64, serial CL-0042, usb, solid-state, removable");
}

}  // namespace undershelf
