#include "export/counts.hpp"

#include <gtest/gtest.h>

#include "export/exported_entry.hpp"

namespace undershelf {

TEST(ExportCounts, TakeBackWhatTheyAdded) {
    ExportedEntry link;
    link.outcome = "complete";
    link.path_in_bag = "data/live/curtain";
    link.link = "stage";
    link.size = 5;
    auto file = link;
    file.outcome = "partial";  // for its grade: no byte of it is missing
    file.link.reset();
    file.size = 70;

    ExportResult counts;
    counts.add(link);
    counts.add(file);
    EXPECT_EQ(counts.complete, 1u);
    EXPECT_EQ(counts.partial, 1u);
    EXPECT_EQ(counts.links, 1u);
    EXPECT_EQ(counts.bytes, 75u);
    counts.take_back(file);
    EXPECT_EQ(counts.complete, 1u);
    EXPECT_EQ(counts.partial, 0u);
    EXPECT_EQ(counts.bytes, 5u);
    counts.take_back(link);
    EXPECT_EQ(counts.links, 0u);
    EXPECT_EQ(counts.bytes, 0u);
}

TEST(ExportCounts, OfWhatHasNoPlaceAreNoBytes) {
    ExportedEntry line;
    line.outcome = "skipped";
    line.size = 70;
    ExportResult counts;
    counts.add(line);
    EXPECT_EQ(counts.skipped, 1u);
    EXPECT_EQ(counts.bytes, 0u);
}

TEST(ExportCounts, NameTheFirstBrokenOnes) {
    ExportResult counts;
    std::vector<ExportedEntry> lines;
    for (int i = 0; i < 5; ++i) {
        ExportedEntry line;
        line.id = i;
        line.path_in_bag = "data/live/" + std::to_string(i);
        line.outcome = "complete";
        line.grade = i ? "doubtful" : "likely";
        line.holds = i == 0;
        line.holds_to = 33;
        counts.add(line);
        lines.push_back(line);
    }
    EXPECT_EQ(counts.complete, 5u);
    EXPECT_EQ(counts.by_grade.at("doubtful"), 4u);
    EXPECT_EQ(counts.broken, 4u);
    ASSERT_EQ(counts.first_broken.size(), 3u);
    EXPECT_EQ(counts.first_broken[0], std::pair(std::string("data/live/1"), std::uint64_t{33}));
    counts.take_back(lines[1]);
    EXPECT_EQ(counts.broken, 3u);
    EXPECT_EQ(counts.first_broken[0].first, "data/live/2");
    EXPECT_EQ(counts.by_grade.at("doubtful"), 3u);
}

TEST(ExportedEntries, KeepAllTheySay) {
    ExportedEntry line;
    line.id = 7;
    line.outcome = "complete";
    line.grade = "likely";
    line.chance = 0.9375;
    line.checked = "weak";
    line.holds = false;
    line.holds_to = 33;
    line.modified = "2025-04-18T15:30:00";
    const auto text = to_json_line(line);
    const auto again = from_json_line(text);
    ASSERT_TRUE(again);
    EXPECT_EQ(to_json_line(*again), text);
    // As it was called once.
    auto before = text;
    before.replace(before.find("\"complete\""), 10, "\"whole\"");
    EXPECT_EQ(from_json_line(before)->outcome, "complete");
}

}  // namespace undershelf
