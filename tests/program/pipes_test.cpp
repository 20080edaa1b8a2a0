// Output that goes elsewhere than to a quiet terminal, and command lines as scripts write them.

#include <fcntl.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <sys/file.h>
#include <unistd.h>

#include <filesystem>
#include <nlohmann/json.hpp>
#include <sstream>

#include "support/fat_image.hpp"
#include "support/json.hpp"
#include "support/program.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf::test {

namespace {

using nlohmann::json;
using ::testing::HasSubstr;
using ::testing::Not;

class Pipes : public ::testing::Test {
  protected:
    Pipes() {
        card.put(0, "NAME1   TXT", u"esc\u001b[31m bel\u0007 c1\u009b over\u202e.txt", {10}, "one");
        card.put(0, "NAME2   TXT", u"two, \"quoted\".txt", {11}, "two");
        folder.write("card.img", card.bytes());
        sh("scan card.img");
    }
    Ran sh(const std::string& arguments) {
        return run_in(folder.path().string(), {"sh", "-c", UNDERSHELF_PROGRAM " " + arguments});
    }
    FatImage card;
    TemporaryFolder folder;
};

}  // namespace

TEST_F(Pipes, SayWhenTheOutputCannotBeWritten) {
    for (const char* command :
         {"list card.shelf", "list card.shelf --format jsonl", "list card.shelf --format csv",
          "tree card.shelf", "summary card.shelf", "inspect card.img", "show card.shelf 1", "list --help"}) {
        const auto full = sh(std::string(command) + " >/dev/full");
        EXPECT_EQ(full.status, 1) << command;
        EXPECT_THAT(full.err, HasSubstr("its file system is full")) << command;
        const auto closed = sh(std::string(command) + " >&-");
        EXPECT_EQ(closed.status, 1) << command;
        EXPECT_THAT(closed.err, HasSubstr("standard output is closed")) << command;
    }
    // No file of ours may take the place of a closed one.
    EXPECT_EQ(sh("list card.shelf >&-").status, 1);
    EXPECT_EQ(sh("list card.shelf").status, 0);
}

TEST_F(Pipes, DoWithoutStandardError) {
    EXPECT_EQ(sh("list card.shelf 2>/dev/full").status, 0);
    EXPECT_EQ(sh("list card.shelf 2>&-").status, 0);
    EXPECT_EQ(sh("list nothing.shelf 2>/dev/full").status, 3);
    EXPECT_EQ(sh("scan card.img --shelf b.shelf 2>/dev/full").status, 0);
}

TEST_F(Pipes, MakeNamesHarmless) {
    for (const char* format : {"table", "csv", "jsonl"}) {
        const auto out = sh(std::string("list card.shelf --format ") + format).out;
        for (const char* bad : {"\x1b", "\x07", "\u009b", "\u202e"})
            EXPECT_THAT(out, Not(HasSubstr(bad))) << format;
    }
    std::istringstream lines(sh("list card.shelf --format jsonl").out);
    std::string line;
    std::getline(lines, line);
    EXPECT_EQ(parsed(line)["name"], "esc\x1b[31m bel\x07 c1\u009b over\u202e.txt");
    EXPECT_THAT(sh("list card.shelf --format csv").out,
                HasSubstr("esc\\u001B[31m bel\\u0007 c1\\u009B over\\u202E.txt"));
    EXPECT_THAT(sh("list card.shelf --format csv").out, HasSubstr("\"two, \"\"quoted\"\".txt\""));
    for (const char* command : {"tree card.shelf", "show card.shelf 1", "list card.shelf --columns name,ext"})
        EXPECT_THAT(sh(command).out, Not(HasSubstr("\x1b"))) << command;
    sh("export card.shelf --to out --all");
    for (const auto& f : std::filesystem::directory_iterator(folder.at("out/data/live"))) {
        for (const char* bad : {"\x1b", "\x07", "\u009b", "\u202e"})
            EXPECT_THAT(f.path().filename().string(), Not(HasSubstr(bad)));
    }
}

TEST_F(Pipes, GiveTheFieldsThatAreAskedFor) {
    const auto csv = sh("list card.shelf --format csv --columns size,name_certainty,id").out;
    EXPECT_TRUE(csv.starts_with("size,name_certainty,id\n3,full,")) << csv;
    std::istringstream lines(
        sh("list card.shelf --format jsonl --columns name,earlier-names,mark,bytes").out);
    std::string line;
    std::getline(lines, line);
    EXPECT_TRUE(line.starts_with("{\"name\":")) << line;
    const auto row = parsed(line);
    EXPECT_EQ(row.size(), 4u);
    EXPECT_EQ(row["size"], 3);
    EXPECT_EQ(row["marked"], false);
    EXPECT_TRUE(row["earlier_names"].is_array());
    // Both spellings are columns of the table as well.
    // One spelling everywhere; the earlier ones are still taken.
    for (const char* columns :
         {"marked,name_certainty,holds_to,first_path", "mark,certainty,holds-to,first-path"}) {
        const auto table = sh(std::string("list card.shelf --sort -holds_to --columns ") + columns).out;
        EXPECT_THAT(table, ::testing::HasSubstr("MARKED  NAME CERTAINTY"));
    }
    EXPECT_EQ(sh("list card.shelf --sort holds-to").status, 0);
    EXPECT_EQ(sh("list card.shelf --columns holds_to,first-path").status, 0);
    EXPECT_EQ(sh("list card.shelf --format jsonl --columns size,bytes").status, 2);
    const auto wrong = sh("list card.shelf --format csv --columns colour");
    EXPECT_EQ(wrong.status, 2);
    EXPECT_THAT(wrong.err, HasSubstr("There is no field `colour`. The fields are id, volume,"));
}

TEST_F(Pipes, RefuseValuesThatSayNothing) {
    for (const char* arguments :
         {"list card.shelf --name ''", "list card.shelf --ext ''", "list card.shelf --ext ,",
          "list card.shelf --under ''", "list card.shelf --size ''", "list card.shelf --size ..",
          "list card.shelf --sort ''", "list ''", "export card.shelf --to '' --all",
          "scan card.img --shelf ''", "list card.shelf --size inf..", "list card.shelf --size nan",
          "list card.shelf --size 16e", "list card.shelf --size 99999999999999999999",
          "list card.shelf --size 2M..1k", "list card.shelf --modified 2025..2024",
          "list card.shelf --size=-1"}) {
        const auto result = sh(arguments);
        EXPECT_EQ(result.status, 2) << arguments << result.err;
        EXPECT_FALSE(result.err.empty()) << arguments;
    }
}

TEST_F(Pipes, HelpWithoutWhatIsRequired) {
    const auto help = sh("export --help");
    EXPECT_EQ(help.status, 0);
    EXPECT_THAT(help.out, HasSubstr("--to"));
    EXPECT_EQ(sh("export card.shelf --all").status, 2);
}

TEST_F(Pipes, TakeLongCommandLines) {
    std::string patterns, keys = "--sort size";
    for (int i = 0; i < 1200; ++i) patterns += " --name 'x" + std::to_string(i) + "'";
    for (int i = 0; i < 3000; ++i) keys += ",-name";
    EXPECT_EQ(sh("list card.shelf --format jsonl --name 'two*' " + patterns).out,
              sh("list card.shelf --format jsonl --id 2").out);
    EXPECT_EQ(sh("list card.shelf --format jsonl " + keys).status, 0);
}

TEST_F(Pipes, FitNarrowTerminals) {
    for (const char* command :
         {"list card.shelf", "tree card.shelf", "summary card.shelf", "show card.shelf 1"}) {
        std::istringstream lines(
            run_in(folder.path().string(),
                   {"sh", "-c", std::string("COLUMNS=40 " UNDERSHELF_PROGRAM " ") + command})
                .out);
        for (std::string line; std::getline(lines, line);) {
            if (line.find(folder.path().filename().string()) != std::string::npos) continue;
            EXPECT_LE(line.size(), 60u) << command << ": " << line;  // some characters have several bytes
        }
    }
}

TEST_F(Pipes, TakeNamesThatAreNoText) {
    EXPECT_EQ(sh("scan card.img --shelf \"$(printf 'a\\377.shelf')\"").status, 0);
    EXPECT_EQ(sh("export \"$(printf 'a\\377.shelf')\" --to out --all").status, 0);
    EXPECT_EQ(sh("verify out").status, 0);
    folder.write("b\xff.img", card.bytes());
    EXPECT_EQ(sh("scan \"$(printf 'b\\377.img')\"").status, 0);
    EXPECT_EQ(sh("export \"$(printf 'b\\377.shelf')\" --to more --all").status, 0);
}

TEST_F(Pipes, LockTheBag) {
    std::filesystem::create_directory(folder.at("out"));
    const int fd = ::open(folder.at("out").c_str(), O_RDONLY | O_DIRECTORY);
    ASSERT_EQ(::flock(fd, LOCK_EX), 0);
    const auto second = sh("export card.shelf --to out --all");
    EXPECT_EQ(second.status, 4);
    EXPECT_THAT(second.err, HasSubstr("Another export is writing to out"));
    ::close(fd);
    EXPECT_EQ(sh("export card.shelf --to out --all").status, 0);
}

TEST_F(Pipes, FailOneEntryAndGoOn) {
    FatImage deep({.clusters = 1000, .sectors_per_cluster = 8});
    deep.put(0, "CUES    CSV", u"", {10}, "a,b\n");
    deep.put(0, "OWL     WAV", u"", {11}, "RIFF");
    fat::Cluster parent = 0;
    for (fat::Cluster c = 100; c < 125; ++c) {
        deep.chain({c});
        deep.make_folder(c, parent);
        char name[16];
        std::snprintf(name, sizeof name, "FOLDER~%uXX ", c % 10);
        deep.add(parent, {std::string(name).substr(0, 11), std::u16string(205, u'n'), c, 0, 0x10});
        parent = c;
    }
    deep.put(parent, "DEEP    TXT", u"", {200}, "deep");
    folder.write("deep.img", deep.bytes());
    sh("scan deep.img");
    const auto result = sh("export deep.shelf --to out --all");
    EXPECT_EQ(result.status, 1);
    EXPECT_THAT(result.out, HasSubstr("2 complete"));
    const auto lines = read_file(folder.at("out/exported.jsonl"));
    EXPECT_THAT(lines, HasSubstr("its path is too long for the destination"));
    EXPECT_THAT(lines, HasSubstr("\"outcome\":\"failed\""));
    EXPECT_EQ(sh("verify out").status, 0);
    // The same command tries again what failed, and only that; without folders it fits.
    const auto again = sh("export deep.shelf --to out --all");
    EXPECT_EQ(again.status, 1);
    EXPECT_THAT(again.out, HasSubstr("2 other selected files are in out already"));
    EXPECT_EQ(sh("export deep.shelf --to flat --all --tree flat").status, 0);
}

}  // namespace undershelf::test
