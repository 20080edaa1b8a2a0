#include "answers/steps.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include "answers/planner.hpp"

namespace undershelf {

using ::testing::HasSubstr;

TEST(Planner, AnExportThatHoldsIsTheEnd) {
    Verification found;
    EXPECT_TRUE(plan_after_verify("rescued", found).steps.empty());
    EXPECT_THAT(plan_after_verify("rescued", found).next.front(), HasSubstr("handed over"));
    found.differences = {"data/a is missing.", "data/b is missing."};
    EXPECT_EQ(plan_after_verify("rescued", found).steps.size(), 1u);
    found.differences.clear();
    found.unfinished_command = {"export", "card.shelf", "--to", "rescued", "--lost"};
    EXPECT_THAT(plan_after_verify("rescued", found).next.front(),
                HasSubstr("undershelf export card.shelf --to rescued --lost"));
    EXPECT_THAT(plan_after_verify("rescued", found).next.front(), ::testing::Not(HasSubstr("handed over")));
}

TEST(Steps, AreTypedAsAShellTakesThem) {
    EXPECT_EQ(command_line({"undershelf", "scan", "card 1.img"}), "undershelf scan 'card 1.img'");
    EXPECT_EQ(command_line({"a'b"}), "'a'\\''b'");
    EXPECT_EQ(command_line({"--under", "", "*.jpg"}), "--under '' '*.jpg'");
}

TEST(Steps, AreObjectsForPrograms) {
    Plan plan;
    plan.add({{"undershelf", "check", "card.shelf"}, "Three can be read.", 130, "which hold"});
    nlohmann::ordered_json out;
    append_plan(out, plan);
    EXPECT_EQ(out["next"][0], "Three can be read. It takes about 2 min: undershelf check card.shelf");
    EXPECT_EQ(out["steps"][0]["argv"][1], "check");
    EXPECT_EQ(out["steps"][0]["seconds"], 130);
    EXPECT_EQ(out["steps"][0]["brings"], "which hold");
}

}  // namespace undershelf
