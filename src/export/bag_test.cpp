#include "export/bag.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <filesystem>
#include <fstream>

#include "base/error.hpp"
#include "base/sha256.hpp"
#include "support/temporary_folder.hpp"

namespace fs = std::filesystem;

namespace undershelf {

namespace {

class BagTest : public ::testing::Test {
  protected:
    ExportedEntry part(std::int64_t id, const std::string& content, const std::string& path) {
        write(to + "/" + Bag::part_path(id), content);
        ExportedEntry e;
        e.id = id;
        e.path = path;
        e.path_in_bag = "data/" + path;
        e.size = e.written = content.size();
        Sha256 hash;
        hash.add({reinterpret_cast<const std::uint8_t*>(content.data()), content.size()});
        e.sha256 = hash.hex();
        e.outcome = "complete";
        return e;
    }
    static void write(const std::string& path, const std::string& content) {
        std::ofstream(path, std::ios::binary | std::ios::trunc) << content;
    }
    std::string refusal(const std::string& job) {
        try {
            Bag bag(SourceGuard::no_source(), to, job);
        } catch (const Error& e) {
            return e.trouble() == Trouble::refused ? e.what() : "";
        }
        return "";
    }

    test::TemporaryFolder folder;
    std::string to = folder.at("bag");
};

}  // namespace

TEST_F(BagTest, TakesOneExportAtATime) {
    Bag bag(SourceGuard::no_source(), to, "job");
    EXPECT_THAT(refusal("job"), ::testing::HasSubstr("Another export is writing to"));
}

TEST_F(BagTest, GoesOnWithWhatWasSynced) {
    {
        Bag bag(SourceGuard::no_source(), to, "job");
        bag.add(part(1, "winter", "winter.txt"));
        bag.commit();
        part(2, "no line yet", "summer.txt");
    }
    EXPECT_THAT(refusal("other"), ::testing::HasSubstr("another job"));
    Bag again(SourceGuard::no_source(), to, "job");
    ASSERT_EQ(again.before().size(), 1u);
    EXPECT_EQ(again.before()[0].path, "winter.txt");
    EXPECT_FALSE(fs::exists(to + "/" + Bag::part_path(2)));
    EXPECT_EQ(test::read_file(to + "/data/winter.txt"), "winter");
}

TEST_F(BagTest, GivesPartsTheirNamesAfterACut) {
    {
        Bag bag(SourceGuard::no_source(), to, "job");
        bag.add(part(1, "winter", "winter.txt"));
        bag.commit();
    }
    // As if the power had gone between the journal's line and the file's name.
    const auto name = to + "/data/winter.txt";
    const auto shown = to + "/.unfinished/1/1.part";
    fs::rename(name, shown);
    Bag again(SourceGuard::no_source(), to, "job");
    EXPECT_EQ(again.before().size(), 1u);
    EXPECT_EQ(test::read_file(name), "winter");
}

TEST_F(BagTest, TrustsHashesWhereNothingWasSynced) {
    {
        Bag bag(SourceGuard::no_source(), to, "job");
        bag.add(part(1, "winter", "winter.txt"));
        bag.add(part(2, "summer", "summer.txt"));
        bag.commit_unsynced();
    }
    write(to + "/data/winter.txt", "w_nter");  // of the same size, as after a power cut
    Bag again(SourceGuard::no_source(), to, "job");
    ASSERT_EQ(again.before().size(), 1u);
    EXPECT_EQ(again.before()[0].path, "summer.txt");
}

TEST_F(BagTest, SurvivesAJournalCutAnywhere) {
    {
        Bag bag(SourceGuard::no_source(), to, "job");
        for (int i = 1; i < 4; ++i) bag.add(part(i, "content", "file" + std::to_string(i)));
        bag.commit();
    }
    const auto journal = to + "/.unfinished/journal.jsonl";
    const auto whole = test::read_file(journal);
    for (auto length = whole.find('\n') + 1; length < whole.size(); length += 7) {
        write(journal, whole.substr(0, length));
        Bag again(SourceGuard::no_source(), to, "job");
        EXPECT_LE(again.before().size(), 3u);
    }
}

TEST_F(BagTest, SaysWhatCouldNotGetItsName) {
    Bag bag(SourceGuard::no_source(), to, "job");
    fs::create_directories(to + "/data/winter.txt");
    bag.add(part(1, "winter", "winter.txt"));
    bag.add(part(2, "summer", "summer.txt"));
    bag.commit();
    const auto failed = bag.take_failed();
    ASSERT_EQ(failed.size(), 1u);
    EXPECT_EQ(failed[0].id, 1);
    EXPECT_EQ(failed[0].outcome, "complete");  // as it was added
    bag.complete("test");
    const auto lines = test::read_file(to + "/exported.jsonl");
    EXPECT_THAT(lines, ::testing::HasSubstr("came to be in the bag meanwhile"));
    EXPECT_THAT(test::read_file(to + "/manifest-sha256.txt"), ::testing::Not(::testing::HasSubstr("winter")));
}

TEST_F(BagTest, IsOpenedAgainForWhatFailedAlone) {
    {
        Bag bag(SourceGuard::no_source(), to, "job");
        bag.add(part(1, "winter", "winter.txt"));
        ExportedEntry failed;
        failed.id = 2;
        failed.outcome = "failed";
        failed.why = "its path is too long for the destination";
        bag.add(failed);
        bag.complete("test");
    }
    EXPECT_THAT(refusal("other"), ::testing::HasSubstr("is not empty"));
    {
        Bag again(SourceGuard::no_source(), to, "job");
        EXPECT_EQ(again.before().size(), 1u);
        again.add(part(2, "summer", "summer.txt"));
        again.complete("test");
    }
    EXPECT_THAT(test::read_file(to + "/manifest-sha256.txt"), ::testing::HasSubstr("data/summer.txt"));
    EXPECT_THAT(refusal("job"), ::testing::HasSubstr("holds this export, finished"));
}

TEST(ExportedLines, TellTheirGistWithoutBeingTakenApart) {
    for (const std::string path :
         {"cues.csv", "a \"quoted\" one", "\"path_in_bag\":\"data/x\",\"sha256\":\"y\"", "back\\slash"}) {
        ExportedEntry e;
        e.id = 4711;
        e.path = path;
        e.path_in_bag = "data/" + path;
        e.size = 99;
        e.sha256 = std::string(64, 'a');
        e.outcome = "complete";
        const auto gist = gist_of(to_json_line(e));
        ASSERT_TRUE(gist);
        EXPECT_EQ(gist->id, 4711);
        EXPECT_EQ(gist->size, 99u);
        EXPECT_EQ(gist->path_in_bag, e.path_in_bag);
        EXPECT_EQ(gist->sha256, e.sha256);
        EXPECT_EQ(from_json_line(to_json_line(e))->path, path);
    }
    ExportedEntry skipped;
    skipped.outcome = "skipped";
    EXPECT_FALSE(gist_of(to_json_line(skipped))->path_in_bag);
    EXPECT_FALSE(gist_of("{\"id\":3,\"path"));
}

}  // namespace undershelf
