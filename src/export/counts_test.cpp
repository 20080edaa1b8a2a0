#include "export/counts.hpp"

#include <gtest/gtest.h>

#include "export/exported_entry.hpp"

namespace undershelf {

TEST(ExportCounts, TakeBackWhatTheyAdded) {
    ExportedEntry link;
    link.outcome = "whole";
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
    EXPECT_EQ(counts.whole, 1u);
    EXPECT_EQ(counts.partial, 1u);
    EXPECT_EQ(counts.links, 1u);
    EXPECT_EQ(counts.bytes, 75u);
    counts.take_back(file);
    EXPECT_EQ(counts.whole, 1u);
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

}  // namespace undershelf
