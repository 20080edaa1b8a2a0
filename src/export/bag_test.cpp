#include "export/bag.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>
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
    static BagOwner owner(const std::string& job, const std::string& shelf = "0123456789abcdef") {
        return {shelf, {"/cards/card.img", 10'000, 512}, job, {}};
    }
    std::string refusal(const BagOwner& owner) {
        try {
            Bag bag(SourceGuard::no_source(), to, owner);
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
    Bag bag(SourceGuard::no_source(), to, owner("job"));
    EXPECT_THAT(refusal(owner("job")), ::testing::HasSubstr("Another export is writing to"));
}

TEST_F(BagTest, GoesOnWithWhatWasSynced) {
    {
        Bag bag(SourceGuard::no_source(), to, owner("job"));
        bag.add(part(1, "winter", "winter.txt"));
        bag.commit();
        part(2, "no line yet", "summer.txt");
    }
    EXPECT_THAT(refusal(owner("other")), ::testing::HasSubstr("another job"));
    Bag again(SourceGuard::no_source(), to, owner("job"));
    ASSERT_EQ(again.before().size(), 1u);
    EXPECT_EQ(again.before()[0].path, "winter.txt");
    EXPECT_FALSE(fs::exists(to + "/" + Bag::part_path(2)));
    EXPECT_EQ(test::read_file(to + "/data/winter.txt"), "winter");
}

TEST_F(BagTest, GivesPartsTheirNamesAfterACut) {
    {
        Bag bag(SourceGuard::no_source(), to, owner("job"));
        bag.add(part(1, "winter", "winter.txt"));
        bag.commit();
    }
    // As if the power had gone between the journal's line and the file's name.
    const auto name = to + "/data/winter.txt";
    const auto shown = to + "/.unfinished/1/1.part";
    fs::rename(name, shown);
    Bag again(SourceGuard::no_source(), to, owner("job"));
    EXPECT_EQ(again.before().size(), 1u);
    EXPECT_EQ(test::read_file(name), "winter");
}

TEST_F(BagTest, TrustsHashesWhereNothingWasSynced) {
    {
        Bag bag(SourceGuard::no_source(), to, owner("job"));
        bag.add(part(1, "winter", "winter.txt"));
        bag.add(part(2, "summer", "summer.txt"));
        bag.commit_unsynced();
    }
    write(to + "/data/winter.txt", "w_nter");  // of the same size, as after a power cut
    Bag again(SourceGuard::no_source(), to, owner("job"));
    ASSERT_EQ(again.before().size(), 1u);
    EXPECT_EQ(again.before()[0].path, "summer.txt");
}

TEST_F(BagTest, SurvivesAJournalCutAnywhere) {
    {
        Bag bag(SourceGuard::no_source(), to, owner("job"));
        for (int i = 1; i < 4; ++i) bag.add(part(i, "content", "file" + std::to_string(i)));
        bag.commit();
    }
    const auto journal = to + "/.unfinished/journal.jsonl";
    const auto whole = test::read_file(journal);
    for (auto length = whole.find('\n') + 1; length < whole.size(); length += 7) {
        const auto kept = whole.substr(0, length);
        write(journal, kept);
        Bag again(SourceGuard::no_source(), to, owner("job"));
        // Lines that are there in full, without their line end or with it; the first is the header.
        const auto lines = std::count(kept.begin(), kept.end(), '}') - 1;
        EXPECT_EQ(again.before().size(), static_cast<std::size_t>(lines)) << kept;
    }
}

TEST_F(BagTest, SaysWhatCouldNotGetItsName) {
    Bag bag(SourceGuard::no_source(), to, owner("job"));
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

TEST_F(BagTest, TakesRoundsOfItsShelfAlone) {
    {
        Bag bag(SourceGuard::no_source(), to, owner("job"));
        EXPECT_EQ(bag.round(), 1u);
        bag.add(part(1, "winter", "winter.txt"));
        ExportedEntry failed;
        failed.id = 2;
        failed.outcome = "failed";
        failed.why = "its path is too long for the destination";
        bag.add(failed);
        bag.complete("test");
    }
    EXPECT_THAT(refusal(owner("job", "fedcba9876543210")), ::testing::HasSubstr("from another shelf"));
    {
        Bag again(SourceGuard::no_source(), to, owner("other"));
        EXPECT_EQ(again.round(), 2u);
        EXPECT_TRUE(again.before().empty());
        again.add(part(2, "summer", "summer.txt"));
        again.complete("test");
    }
    const auto manifest = test::read_file(to + "/manifest-sha256.txt");
    EXPECT_THAT(manifest, ::testing::AllOf(::testing::HasSubstr("data/winter.txt"),
                                           ::testing::HasSubstr("data/summer.txt")));
    // What failed first has one line now.
    const auto lines = test::read_file(to + "/exported.jsonl");
    EXPECT_EQ(std::count(lines.begin(), lines.end(), '\n'), 2);
    EXPECT_THAT(lines, ::testing::Not(::testing::HasSubstr("too long")));
    const auto info = test::read_file(to + "/bag-info.txt");
    EXPECT_THAT(info, ::testing::HasSubstr("Payload-Oxum: 12.2\n"));
    EXPECT_THAT(info, ::testing::HasSubstr("Undershelf-Round: {\"round\":2,"));
}

TEST_F(BagTest, OfEarlierVersionsAreAddedTo) {
    {
        Bag bag(SourceGuard::no_source(), to, owner("{\"source\":\"/cards/card.img\",\"bytes\":10000}"));
        bag.add(part(1, "winter", "winter.txt"));
        bag.complete("test");
    }
    // They say which source it was, and nothing of shelves and rounds; what people add is kept.
    auto info = test::read_file(to + "/bag-info.txt");
    info = info.substr(0, info.find("Undershelf-Shelf")) +
           "Undershelf-Job: {\"source\":\"/cards/card.img\",\"bytes\":10000}\nContact-Name: Odile\n";
    write(to + "/bag-info.txt", info);
    auto other = owner("job");
    other.source.size = 20'000;
    EXPECT_THAT(refusal(other), ::testing::HasSubstr("from another shelf"));
    {
        Bag again(SourceGuard::no_source(), to, owner("job"));
        EXPECT_EQ(again.round(), 2u);
        again.add(part(2, "summer", "summer.txt"));
        again.complete("another");
    }
    info = test::read_file(to + "/bag-info.txt");
    EXPECT_THAT(info,
                ::testing::AllOf(::testing::HasSubstr("Contact-Name: Odile\n"),
                                 ::testing::HasSubstr("External-Description: test\n"),
                                 ::testing::HasSubstr("\"round\":1,"), ::testing::HasSubstr("\"round\":2,"),
                                 ::testing::HasSubstr("Undershelf-Shelf: 0123456789abcdef\n")));
}

TEST_F(BagTest, IsNotAddedToWhereThatWouldHideWhatSomebodyChanged) {
    {
        Bag bag(SourceGuard::no_source(), to, owner("job"));
        bag.add(part(1, "winter", "winter.txt"));
        bag.complete("test");
    }
    const auto lines = test::read_file(to + "/exported.jsonl");
    write(to + "/exported.jsonl", lines + "\n");
    EXPECT_THAT(refusal(owner("job")), ::testing::HasSubstr("exported.jsonl is not as it was written"));
    write(to + "/exported.jsonl", lines);
    write(to + "/manifest-md5.txt", "0123456789abcdef0123456789abcdef  data/winter.txt\n");
    EXPECT_THAT(refusal(owner("job")), ::testing::HasSubstr("added to this bag by somebody else"));
    fs::remove(to + "/manifest-md5.txt");
    EXPECT_EQ(refusal(owner("job")), "");
}

TEST_F(BagTest, IsFinishedFromTheMomentItsTagFilesAreOnTheDrive) {
    {
        Bag bag(SourceGuard::no_source(), to, owner("job"));
        bag.add(part(1, "winter", "winter.txt"));
        bag.complete("test");
    }
    // As if it had been cut off when the first two were in their places.
    fs::create_directories(to + "/.unfinished/tags");
    write(to + "/.unfinished/journal.jsonl", "{\"job\":\"other\"}\n");
    for (const char* name : {"bag-info.txt", "tagmanifest-sha256.txt", "bagit.txt"})
        fs::rename(to + "/" + name, to + "/.unfinished/tags/" + name);
    {
        Bag again(SourceGuard::no_source(), to, owner("job"));
        EXPECT_EQ(again.round(), 2u);
        EXPECT_TRUE(fs::exists(to + "/bagit.txt"));
        again.leave();
    }
    EXPECT_FALSE(fs::exists(to + "/.unfinished"));
    EXPECT_THAT(test::read_file(to + "/bag-info.txt"), ::testing::Not(::testing::HasSubstr("\"round\":2")));
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
