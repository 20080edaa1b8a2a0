#include "shelf/jobs.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <filesystem>

#include "scan/scan.hpp"
#include "shelf/shelf.hpp"
#include "support/formatted_card.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf {

namespace {

class Jobs : public testing::Test {
  protected:
    void SetUp() override {
        ScanOptions options;
        options.source_path = folder_.write("card.img", test::formatted_card().bytes());
        options.shelf_path = shelf_;
        Progress progress;
        scan(options, progress);
    }
    std::vector<JobRecord> jobs() const { return Shelf(shelf_).jobs(); }

    test::TemporaryFolder folder_;
    std::string shelf_ = folder_.at("card.shelf");
};

}  // namespace

TEST_F(Jobs, AreKeptInTheOrderTheyWereBegun) {
    {
        JobNote note(shelf_, Work::export_files, all_lost(), {"9.9", {"export", "card.shelf", "--lost"}},
                     "/rescued");
        EXPECT_EQ(note.trouble(), "");
        ASSERT_EQ(jobs().size(), 1u);
        EXPECT_EQ(jobs()[0].state, "running");
        note.end("interrupted");
    }
    JobNote(shelf_, Work::export_files, {}, {}, "/rescued").end("done");
    const auto all = jobs();
    ASSERT_EQ(all.size(), 2u);
    EXPECT_EQ(all[0].state, "interrupted");
    EXPECT_EQ(all[0].selection, "{\"lost\":true}");
    EXPECT_EQ(all[0].folder, "/rescued");
    EXPECT_EQ(all[0].after_scan, 1);
    EXPECT_FALSE(all[0].ended.empty());
    EXPECT_EQ(all[0].command.version, "9.9");
    EXPECT_EQ(all[0].command.arguments, R"(["export","card.shelf","--lost"])");
    EXPECT_FALSE(all[0].command.exit);
    EXPECT_TRUE(all[1].done());
}

TEST_F(Jobs, ThatEndWithoutAWordHaveFailed) {
    { JobNote note(shelf_, Work::check, {}); }
    EXPECT_EQ(jobs().front().state, "failed");
}

TEST_F(Jobs, MarksAreAmongThem) {
    Shelf(shelf_, Shelf::Access::mark).mark(all_lost(), true);
    ASSERT_EQ(jobs().size(), 1u);
    EXPECT_EQ(jobs().front().work, Work::mark);
    EXPECT_TRUE(jobs().front().done());
}

TEST_F(Jobs, AShelfThatCannotBeWrittenIsNoHindrance) {
    JobNote note(folder_.at("none.shelf"), Work::export_files, {});
    EXPECT_NE(note.trouble(), "");
    note.end("done");
}

}  // namespace undershelf
