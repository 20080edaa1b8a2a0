// Looking through finds: words, numbers, groups, folders with totals, marks, as the program does it.

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <filesystem>

#include "support/bin_files.hpp"
#include "support/fat_image.hpp"
#include "support/memory_content.hpp"
#include "support/program_test.hpp"

namespace undershelf::test {

namespace {

using ::testing::AllOf;
using ::testing::ElementsAre;
using ::testing::HasSubstr;
using ::testing::Not;
using ::testing::UnorderedElementsAre;

/// A card of the theatre: scripts, one of them deleted, photos, and leavings.
class ProgramChoosing : public ProgramTest {
  protected:
    ProgramChoosing() {
        FatImage card({.clusters = 3000, .sectors_per_cluster = 1});
        const auto folder_at = [&](fat::Cluster parent, const std::string& name,
                                   const std::u16string& long_name) {
            const auto at = next_++;
            card.chain({at});
            card.make_folder(at, parent);
            card.add(parent, {name, long_name, at, 0, 0x10});
            return at;
        };
        const auto put = [&](fat::Cluster parent, const std::string& name, const std::u16string& long_name,
                             const std::string& content) {
            return card.put(parent, name, long_name, {next_++}, content);
        };
        const auto scripts = folder_at(0, "SCRIPTS    ", u"Scripts");
        const auto summer = folder_at(scripts, "SUMMER     ", u"Summer play");
        const auto photos = folder_at(0, "PHOTOS     ", u"Photos");
        put(scripts, "WINTER  TXT", u"Winter play.txt", "snow over the mill");
        put(summer, "ACT1    TXT", u"late summer, act 1.txt", "the lantern fox");
        card.erase(put(summer, "ACT2    TXT", u"late summer, act 2.txt", "the owl answers"));
        put(photos, "CWL1    CR2", u"CWL1.CR2", "raw");
        put(photos, "CWL1    JPG", u"CWL1.jpg", "raw and its copy");
        put(0, "A       TXT", u"a.txt", "a");
        put(0, "DATA    TXT", u"data.txt", "b");
        put(0, "DRAFT   TMP", u"draft.tmp", "c");
        put(0, "DESKTOP INI", u"desktop.ini", "helper");
        folder.write("card.img", card.bytes());
        const auto ran = run({"scan", "card.img"});
        EXPECT_EQ(ran.status, 0) << ran.err;
    }
    std::vector<std::string> names(std::vector<std::string> selection) {
        selection.insert(selection.begin(), {"list", "card.shelf", "--format", "jsonl", "--columns", "name"});
        const auto ran = run(selection);
        EXPECT_EQ(ran.status, 0) << ran.err;
        std::vector<std::string> out;
        for (const auto& line : lines_of(ran.out)) out.push_back(line["name"]);
        return out;
    }
    std::string number_of(const std::string& name) {
        const auto ran = run({"list", "card.shelf", "--format", "jsonl", "--name", "=" + name});
        return std::to_string(lines_of(ran.out).at(0)["id"].get<int>());
    }

  private:
    fat::Cluster next_ = 10;
};

}  // namespace

TEST_F(ProgramChoosing, FindsWordsPatternsAndNames) {
    EXPECT_THAT(names({"--name", "SUMMER"}),
                UnorderedElementsAre("Summer play", "late summer, act 1.txt", "late summer, act 2.txt"));
    EXPECT_THAT(names({"--name", "=a.txt"}), ElementsAre("a.txt"));
    EXPECT_THAT(names({"--name", "*act ?.txt", "--not-name", "act 2"}),
                ElementsAre("late summer, act 1.txt"));
    EXPECT_THAT(names({"--in", "/", "--not-ext", "tmp,ini", "--not-under", "Scripts", "--not-kind", "other",
                       "--ext", "txt"}),
                UnorderedElementsAre("a.txt", "data.txt"));
    EXPECT_THAT(names({"--in", "Scripts", "--kind", "text"}), ElementsAre("Winter play.txt"));
}

TEST_F(ProgramChoosing, TakesAFolderForWhatIsInIt) {
    const auto scripts = number_of("Scripts");
    EXPECT_THAT(names({"--id", scripts, "--ext", "txt"}),
                UnorderedElementsAre("Winter play.txt", "late summer, act 1.txt", "late summer, act 2.txt"));
    const auto marked = run({"mark", "card.shelf", "--id", scripts, "--grade", "likely+"});
    EXPECT_EQ(marked.status, 0);
    EXPECT_THAT(marked.out,
                AllOf(HasSubstr("3 entries newly marked"), HasSubstr("marked now: 3 files, 48 B: 3 likely"),
                      HasSubstr("undershelf export card.shelf --to DIR --marked")));
    EXPECT_EQ(run({"export", "card.shelf", "--to", "bag", "--id", scripts}).status, 0);
    EXPECT_TRUE(
        std::filesystem::exists(folder.at("bag/data/live/Scripts/Summer play/late summer, act 1.txt")));
}

TEST_F(ProgramChoosing, KeepsMarksUnderNames) {
    EXPECT_EQ(run({"mark", "card.shelf", "--as", "the play", "--under", "Scripts", "--ext", "txt"}).status,
              0);
    EXPECT_EQ(run({"mark", "card.shelf", "--name", "=a.txt"}).status, 0);
    EXPECT_EQ(names({"--marked", "the play"}).size(), 3u);
    EXPECT_EQ(names({"--marked"}).size(), 4u);
    // The shelf comes after it as well.
    const auto before = run({"list", "--marked", "card.shelf", "--format", "jsonl"});
    EXPECT_EQ(lines_of(before.out).size(), 4u);
    for (const auto& line : lines_of(run({"list", "card.shelf", "--marked", "the play", "--format", "jsonl",
                                          "--columns", "marked,marks"})
                                         .out)) {
        EXPECT_TRUE(line["marked"]);
        EXPECT_THAT(dumped(line["marks"]), "[\"the play\"]");
    }
    EXPECT_THAT(run({"unmark", "card.shelf", "--as", "the play", "--all"}).out,
                HasSubstr("3 entries unmarked"));
    EXPECT_THAT(names({"--marked"}), ElementsAre("a.txt"));
    EXPECT_EQ(run({"mark", "card.shelf", "--as", "x", "--marked"}).status, 0);
    EXPECT_THAT(run({"unmark", "card.shelf", "--marked"}).out, HasSubstr("1 entry unmarked"));
    const auto none = run({"mark", "card.shelf", "--name", "nobody"});
    EXPECT_EQ(none.status, 1);
    EXPECT_THAT(none.err, HasSubstr("Without --name nobody"));
    EXPECT_EQ(run({"mark", "card.shelf", "--as", "a\tb", "--all"}).status, 2);
}

TEST_F(ProgramChoosing, TakesListsOfNumbersBack) {
    const auto ids = run({"list", "card.shelf", "--ext", "txt", "--format", "ids"});
    folder.write("ticks.txt", ids.out);
    EXPECT_THAT(ids.out, HasSubstr("# undershelf shelf "));
    EXPECT_EQ(names({"--ids-from", "ticks.txt"}).size(), 5u);
    folder.write("more.csv", run({"list", "card.shelf", "--ext", "cr2", "--format", "csv"}).out);
    EXPECT_EQ(names({"--ids-from", "ticks.txt", "--ids-from", "more.csv"}).size(), 6u);
    folder.write("odd.txt", std::string("1\r\n777\r\n888\r\n777\r\n999\r\n555\r\n"));
    const auto odd = run({"list", "card.shelf", "--ids-from", "odd.txt"});
    EXPECT_EQ(odd.status, 0);
    EXPECT_THAT(odd.err, HasSubstr("odd.txt: 4 numbers are no entries here: 555, 777, 888, ..."));
    folder.write("wrong.txt", std::string("1\ntwo\n"));
    const auto wrong = run({"list", "card.shelf", "--ids-from", "wrong.txt"});
    EXPECT_EQ(wrong.status, 2);
    EXPECT_THAT(wrong.err, HasSubstr("Line 2 of wrong.txt"));
    folder.write("other.txt", std::string("# undershelf shelf 0000000000000000\n1\n"));
    const auto other = run({"mark", "card.shelf", "--ids-from", "other.txt"});
    EXPECT_EQ(other.status, 4);
    EXPECT_THAT(other.err, HasSubstr("made from another shelf"));
}

TEST_F(ProgramChoosing, LooksIntoContentsForEveryCommand) {
    EXPECT_EQ(run({"check", "card.shelf", "--origin", "live,deleted"}).status, 0);
    EXPECT_THAT(run({"mark", "card.shelf", "--containing", "fox lantern"}).out,
                HasSubstr("1 entry newly marked"));
    EXPECT_THAT(run({"tree", "card.shelf", "--containing", "owl"}).out,
                AllOf(HasSubstr("act 2"), Not(HasSubstr("act 1"))));
    EXPECT_EQ(run({"export", "card.shelf", "--to", "bag", "--containing", "snow"}).status, 0);
    EXPECT_TRUE(std::filesystem::exists(folder.at("bag/data/live/Scripts/Winter play.txt")));
    EXPECT_FALSE(std::filesystem::exists(folder.at("bag/data/live/a.txt")));
}

TEST_F(ProgramChoosing, LeavesKnownFilesOut) {
    // Of `a` and `b`.
    folder.write("known.txt",
                 std::string("ca978112ca1bbdcafac231b39a23dc4da786eff8147c4e72b9807785afee48bb  a.txt\n"
                             "3e23e8160039594a33894f6564e1b1348bbd7a0088d42c4acb73eeaed59c009d  b.txt\n"));
    EXPECT_THAT(names({"--sha256-from", "known.txt"}), UnorderedElementsAre("a.txt", "data.txt"));
    EXPECT_THAT(names({"--in", "/", "--ext", "txt,tmp", "--not-sha256-from", "known.txt"}),
                ElementsAre("draft.tmp"));
    EXPECT_THAT(names({"--ext", "cr2", "--with-pairs"}), UnorderedElementsAre("CWL1.CR2", "CWL1.jpg"));
}

TEST_F(ProgramChoosing, CountsInGroups) {
    const auto kinds = run({"list", "card.shelf", "--group", "ext"});
    EXPECT_THAT(kinds.out, AllOf(HasSubstr("OPENED BY"), HasSubstr("--ext txt")));
    EXPECT_THAT(kinds.err, AllOf(HasSubstr("4 groups, 8 files"),
                                 HasSubstr("to open one, as the first: undershelf list card.shelf --ext txt"),
                                 HasSubstr("not shown: 1 helper (--helpers)")));
    for (const char* by : {"kind", "ext", "format", "folder", "volume", "origin", "grade", "year", "month"}) {
        std::uint64_t files = 0;
        for (const auto& group :
             lines_of(run({"list", "card.shelf", "--group", by, "--format", "jsonl"}).out)) {
            // What a group says it is opened by opens just that.
            std::vector<std::string> argv{"list", "card.shelf", "--format", "ids"};
            for (const auto& word : group["selection"]) argv.push_back(word);
            std::uint64_t opened = 0;
            std::istringstream ids(run(argv).out);
            for (std::string line; std::getline(ids, line);) opened += !line.starts_with('#');
            EXPECT_EQ(opened, group["files"].get<std::uint64_t>()) << by << group;
            files += group["files"].get<std::uint64_t>();
        }
        EXPECT_EQ(files, 8u) << by;
    }
    EXPECT_THAT(run({"list", "card.shelf", "--group", "folder", "--depth", "1", "--format", "csv"}).out,
                HasSubstr("folder,Scripts/,3,"));
    EXPECT_EQ(run({"list", "card.shelf", "--group", "colour"}).status, 2);
    EXPECT_EQ(run({"list", "card.shelf", "--depth", "2"}).status, 2);
}

TEST_F(ProgramChoosing, ShowsFoldersWithTheirTotals) {
    const auto tree = run({"tree", "card.shelf"});
    EXPECT_THAT(tree.out, AllOf(HasSubstr("Scripts/  3 files, 3 likely+"), HasSubstr("├─ a.txt"),
                                HasSubstr("└─ draft.tmp")));
    EXPECT_THAT(tree.err, HasSubstr("3 folders, 8 files"));
    const auto folders = run({"tree", "card.shelf", "--folders", "--depth", "1", "--lost"});
    EXPECT_THAT(folders.out, AllOf(HasSubstr("FOLDER"), HasSubstr("Scripts/"), Not(HasSubstr("Summer play")),
                                   Not(HasSubstr("Photos"))));
    EXPECT_THAT(folders.err, HasSubstr("1 file, 15 B"));
    EXPECT_THAT(run({"tree", "card.shelf", "--depth", "1"}).out,
                AllOf(HasSubstr("Photos/  2 files"), HasSubstr("a.txt"), Not(HasSubstr("CWL1"))));
    // The size is beside its name, however wide the terminal is.
    EXPECT_EQ(tree.out.find(std::string(48, ' ')), std::string::npos) << tree.out;
}

TEST_F(ProgramChoosing, EstimatesAnExportAndWritesNothing) {
    const auto ran = run({"export", "card.shelf", "--to", "bag", "--ext", "txt", "--dry-run"});
    EXPECT_EQ(ran.status, 0);
    EXPECT_THAT(ran.out, AllOf(HasSubstr("would export 5 files"), HasSubstr("to bag: 5 likely"),
                               HasSubstr("enough"), HasSubstr("Nothing was written.")));
    EXPECT_FALSE(std::filesystem::exists(folder.at("bag")));
}

TEST_F(ProgramChoosing, PutsAnExportInFoldersByKindOrMonth) {
    EXPECT_EQ(run({"export", "card.shelf", "--to", "kinds", "--under", "Scripts", "--tree", "kind"}).status,
              0);
    EXPECT_TRUE(std::filesystem::exists(folder.at("kinds/data/live/text/Winter play.txt")));
    EXPECT_TRUE(std::filesystem::exists(folder.at("kinds/data/deleted/text/late summer, act 2.txt")));
    EXPECT_EQ(run({"verify", "kinds"}).status, 0);
    EXPECT_EQ(run({"export", "card.shelf", "--to", "months", "--under", "Scripts", "--tree", "month"}).status,
              0);
    std::size_t files = 0;
    for (const auto& at : std::filesystem::recursive_directory_iterator(folder.at("months/data")))
        files += at.is_regular_file();
    EXPECT_EQ(files, 3u);
    EXPECT_EQ(run({"export", "card.shelf", "--to", "x", "--all", "--tree", "year"}).status, 2);
}

TEST_F(ProgramChoosing, SaysWhatSomebodyMayHaveMeant) {
    EXPECT_THAT(run({"lst", "card.shelf"}).err, HasSubstr("Did you mean `list`?"));
    EXPECT_THAT(run({"list", "card.shelf", "--ids-form", "x"}).err, HasSubstr("Did you mean `--ids-from`?"));
    EXPECT_THAT(run({"list", "card.shelf", "--columns", "grad"}).err, HasSubstr("Did you mean `grade`?"));
    EXPECT_THAT(run({"list", "card.shelf", "--kind", "pictures"}).err, HasSubstr("Did you mean `picture`?"));
    EXPECT_THAT(run({"list", "card.shelf", "--sort", "nmae"}).err, HasSubstr("Did you mean `name`?"));
    for (const char* command : {"scan", "inspect"}) {
        const auto shelf = run({command, "card.shelf"});
        EXPECT_EQ(shelf.status, 2);
        EXPECT_THAT(shelf.err, HasSubstr("card.shelf is a shelf"));
    }
    EXPECT_EQ(run({"help", "list"}).out, run({"list", "--help"}).out);
    EXPECT_THAT(run({"help", "list"}).out,
                AllOf(HasSubstr("--sort COLUMNS"), HasSubstr("undershelf help selection"),
                      HasSubstr("Examples:"), Not(HasSubstr("--size"))));
    EXPECT_THAT(run({"help", "selection"}).out, HasSubstr("--size RANGE"));
    EXPECT_EQ(run({"help", "nothing"}).status, 2);
}

TEST_F(ProgramChoosing, ShowsAnEntryByItsPath) {
    const auto shown = run({"show", "card.shelf", "scripts/winter play.txt"});
    EXPECT_EQ(shown.status, 0);
    EXPECT_THAT(shown.out, HasSubstr("Scripts/Winter play.txt"));
    EXPECT_THAT(run({"peek", "card.shelf", "/Scripts/Winter play.txt"}).out, HasSubstr("snow over the mill"));
    const auto none = run({"show", "card.shelf", "Scripts/spring.txt"});
    EXPECT_EQ(none.status, 2);
    EXPECT_THAT(none.err, HasSubstr("undershelf list card.shelf --name spring.txt"));
}

}  // namespace undershelf::test
