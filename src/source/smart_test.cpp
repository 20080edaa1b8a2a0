#include "source/smart.hpp"

#include <fmt/format.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cstdlib>
#include <filesystem>

#include "support/temporary_folder.hpp"

namespace undershelf {

using ::testing::Contains;
using ::testing::ElementsAre;
using ::testing::HasSubstr;

namespace {

constexpr const char* failing = R"({"smart_status": {"passed": false}, "temperature": {"current": 61},
    "power_on_time": {"hours": 9120}, "ata_smart_attributes": {"table": [
    {"id": 5, "raw": {"value": 812}}, {"id": 9, "raw": {"value": 9120}}, {"id": 197, "raw": {"value": 1}},
    {"id": 198, "raw": {"value": -3}}]}})";

/// A `smartctl` of the search path that does this.
class StandIn {
  public:
    explicit StandIn(std::string_view script) : path_(std::getenv("PATH")) {
        std::filesystem::permissions(folder_.write("smartctl", fmt::format("#!/bin/sh\n{}", script)),
                                     std::filesystem::perms::owner_all);
        ::setenv("PATH", (folder_.path().string() + ":" + path_).c_str(), 1);
    }
    ~StandIn() { ::setenv("PATH", path_.c_str(), 1); }

  private:
    test::TemporaryFolder folder_;
    std::string path_;
};

}  // namespace

TEST(Smart, SaysWhatMattersInSentences) {
    const auto h = read_smart(failing);
    ASSERT_TRUE(h);
    EXPECT_THAT(in_words(*h),
                ElementsAre("It says of itself that it is failing; copy it before anything else.",
                            "It has 1 sector that it could not read; copy it first.",
                            "It has moved 812 sectors; copy it first.", HasSubstr("hot, 61 °C")));
    EXPECT_EQ(h->unreadable_sectors, std::nullopt) << "no drive has fewer than none";
    const auto well = read_smart(R"({"smart_status": {"passed": true}, "power_on_time": {"hours": 12}})");
    EXPECT_THAT(in_words(*well), ElementsAre("It says of itself that it is well, after 12 hours."));
    const auto nvme =
        read_smart(R"({"nvme_smart_health_information_log": {"media_errors": 2, "percentage_used": 97}})");
    EXPECT_THAT(in_words(*nvme), ElementsAre(HasSubstr("2 times"), HasSubstr("97 %")));
}

TEST(Smart, TakesNothingFromWhatIsSomethingElse) {
    for (const auto* text :
         {"", "{", "[]", "{}", "null", R"({"smart_status": 3})", R"({"smart_status": {"passed": 1}})",
          R"({"ata_smart_attributes": {"table": [7, {"id": "5"}, {"id": 5}]}})"})
        EXPECT_FALSE(read_smart(text)) << text;
}

TEST(Smart, AsksTheProgramThatIsInstalled) {
    const StandIn smartctl(fmt::format("echo '{}'\nexit 8", failing));
    const auto answer = ask_smart("/dev/sdq");
    ASSERT_TRUE(answer.health);
    EXPECT_EQ(answer.health->moved_sectors, 812u);
    EXPECT_EQ(answer.trouble, "");
}

TEST(Smart, ADriveThatDoesNotAnswerIsNotWaitedFor) {
    const StandIn smartctl("exec sleep 600");
    const auto answer = ask_smart("/dev/sdq", std::chrono::milliseconds(50));
    EXPECT_FALSE(answer.health);
    EXPECT_THAT(answer.trouble, HasSubstr("did not answer"));
}

TEST(Smart, WithoutTheProgramItSaysHowToGetIt) {
    const std::string path = std::getenv("PATH");
    ::setenv("PATH", "/nowhere", 1);
    const auto answer = ask_smart("/dev/sdq");
    ::setenv("PATH", path.c_str(), 1);
    EXPECT_THAT(answer.trouble, HasSubstr("apt install smartmontools"));
}

}  // namespace undershelf
