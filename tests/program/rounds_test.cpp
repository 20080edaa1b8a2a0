// Exports in rounds: into one bag, remembered, added to by others meanwhile, cut off at any moment.

#include <SQLiteCpp/SQLiteCpp.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <filesystem>
#include <nlohmann/json.hpp>
#include <random>
#include <set>

#include "support/bag_validator.hpp"
#include "support/needs.hpp"
#include "support/program_test.hpp"
#include "support/small_card.hpp"

namespace undershelf::test {

namespace {

namespace fs = std::filesystem;
using nlohmann::json;
using ::testing::AllOf;
using ::testing::HasSubstr;
using ::testing::IsEmpty;
using ::testing::Not;

class Rounds : public ProgramTest {
  protected:
    void SetUp() override {
        folder.write("card.img", small_card().bytes());
        ASSERT_EQ(run({"scan", "card.img"}).status, 0);
    }
    Ran export_to(const std::string& to, std::vector<std::string> selection) {
        selection.insert(selection.begin(), {"export", "card.shelf", "--to", to});
        return run(selection);
    }
    Ran shell(const std::string& command) { return run_in(folder.path().string(), {"sh", "-c", command}); }
    std::string file(const std::string& name) { return read_file(folder.at(name)); }
    std::set<std::string> listed(std::vector<std::string> selection) {
        selection.insert(selection.begin(), {"list", "card.shelf", "--format", "jsonl"});
        std::set<std::string> out;
        for (const auto& e : lines_of(run(selection).out)) out.insert(e["name"]);
        return out;
    }
    std::set<std::string> files_in(const std::string& bag) {
        std::set<std::string> out;
        for (const auto& f : fs::recursive_directory_iterator(folder.at(bag + "/data")))
            if (f.is_regular_file()) out.insert(f.path().lexically_relative(folder.at(bag)).string());
        return out;
    }
    json summary() { return parsed(run({"summary", "card.shelf", "--format", "json"}).out); }

    const std::set<std::string> all_{"data/live/CUES.TXT", "data/live/PROPS.CSV", "data/deleted/_OX.TXT",
                                     "data/deleted/_OSTER.PNG"};
};

/// A file system of its own in a folder; skips where none can be mounted.
class Mounted {
  public:
    Mounted(const std::string& at, const std::string& how) : at_(at) {
        made_ = run_in("/", {"sh", "-c", "mkdir -p " + at + " && " + how});
    }
    ~Mounted() { run_in("/", {"sh", "-c", "umount " + at_ + " 2>/dev/null"}); }
    const Ran& made() const { return made_; }

  private:
    std::string at_;
    Ran made_;
};

}  // namespace

TEST_F(Rounds, GoIntoOneBag) {
    const auto first = export_to("bag", {"--origin", "live"});
    EXPECT_EQ(first.status, 0) << first.err;
    EXPECT_THAT(against_bagit(folder.at("bag")), IsEmpty());
    const auto second = export_to("bag", {"--ext", "txt"});
    EXPECT_EQ(second.status, 0) << second.err;
    EXPECT_THAT(second.out, AllOf(HasSubstr("exported 1 file"), HasSubstr("bag (round 2)"),
                                  HasSubstr("1 other selected file is in bag already")));
    EXPECT_THAT(against_bagit(folder.at("bag")), IsEmpty());
    EXPECT_EQ(export_to("bag", {"--all"}).status, 0);
    EXPECT_THAT(against_bagit(folder.at("bag")), IsEmpty());
    EXPECT_EQ(run({"verify", "bag"}).status, 0);
    EXPECT_EQ(files_in("bag"), all_);
    std::map<std::string, int> rounds;
    for (const auto& line : lines_of(file("bag/exported.jsonl"))) rounds[line["path"]] = line["round"];
    EXPECT_EQ(rounds, (std::map<std::string, int>{
                          {"CUES.TXT", 1}, {"PROPS.CSV", 1}, {"_OX.TXT", 2}, {"_OSTER.PNG", 3}}));
    const auto info = file("bag/bag-info.txt");
    EXPECT_THAT(info,
                AllOf(HasSubstr("\"round\":1,"), HasSubstr("\"round\":3,"), Not(HasSubstr("\"round\":4"))));
    // Nothing is left to add: nothing changes.
    const auto again = export_to("bag", {"--all"});
    EXPECT_EQ(again.status, 0) << again.err;
    EXPECT_THAT(again.out, HasSubstr("nothing to add: 4 selected files are in bag already"));
    EXPECT_EQ(file("bag/bag-info.txt"), info);
    EXPECT_FALSE(fs::exists(folder.at("bag/.unfinished")));
}

TEST_F(Rounds, AreRememberedInTheShelf) {
    EXPECT_EQ(listed({"--exported"}), std::set<std::string>());
    ASSERT_EQ(export_to("bag", {"--ext", "txt"}).status, 0);
    EXPECT_EQ(listed({"--exported"}), (std::set<std::string>{"CUES.TXT", "_OX.TXT"}));
    EXPECT_EQ(listed({"--not-exported"}), (std::set<std::string>{"PROPS.CSV", "_OSTER.PNG"}));
    EXPECT_THAT(run({"list", "card.shelf", "--columns", "name,exported", "--format", "csv"}).out,
                AllOf(HasSubstr("CUES.TXT,true"), HasSubstr("PROPS.CSV,false")));
    EXPECT_THAT(run({"summary", "card.shelf"}).out, HasSubstr("1 of 2 lost files are exported; left: 1 "));
    EXPECT_EQ(run({"list", "card.shelf", "--exported", "--not-exported"}).status, 2);
    ASSERT_EQ(export_to("bag", {"--not-exported", "--lost"}).status, 0);
    EXPECT_EQ(listed({"--not-exported"}), (std::set<std::string>{"PROPS.CSV"}));
    EXPECT_THAT(run({"summary", "card.shelf"}).out,
                HasSubstr("2 of 2 lost files are exported; nothing is left."));
    // Another scan changes nothing of that.
    ASSERT_EQ(run({"scan", "card.img", "--reach", "traces"}).status, 0);
    EXPECT_EQ(listed({"--not-exported"}), (std::set<std::string>{"PROPS.CSV"}));
}

TEST_F(Rounds, WriteWhatIsLaidOutAnewBesideWhatWas) {
    ASSERT_EQ(export_to("bag", {"--all"}).status, 0);
    {
        SQLite::Database db(folder.at("card.shelf"), SQLite::OPEN_READWRITE);
        db.exec("UPDATE entries SET revision = 1 WHERE name = 'CUES.TXT'");
    }
    EXPECT_EQ(listed({"--not-exported"}), (std::set<std::string>{"CUES.TXT"}));
    EXPECT_EQ(export_to("bag", {"--all"}).status, 0);
    auto files = all_;
    files.insert("data/live/CUES~r1.TXT");
    EXPECT_EQ(files_in("bag"), files);
    EXPECT_EQ(listed({"--not-exported"}), std::set<std::string>());
    EXPECT_EQ(run({"verify", "bag"}).status, 0);
    EXPECT_THAT(against_bagit(folder.at("bag")), IsEmpty());
    EXPECT_THAT(export_to("bag", {"--all"}).out, HasSubstr("nothing to add"));
}

TEST_F(Rounds, OfAnotherShelfAreRefused) {
    ASSERT_EQ(export_to("bag", {"--all"}).status, 0);
    const auto before = file("bag/bag-info.txt");
    ASSERT_EQ(run({"scan", "card.img", "--shelf", "other.shelf"}).status, 0);
    const auto ran = run({"export", "other.shelf", "--to", "bag", "--all"});
    EXPECT_EQ(ran.status, 4);
    EXPECT_THAT(ran.err, HasSubstr("bag holds an export from another shelf"));
    EXPECT_EQ(file("bag/bag-info.txt"), before);
}

TEST_F(Rounds, AreInTheJournalOfTheShelf) {
    ASSERT_EQ(run({"check", "card.shelf"}).status, 0);
    ASSERT_EQ(run({"mark", "card.shelf", "--ext", "txt"}).status, 0);
    ASSERT_EQ(export_to("bag", {"--marked"}).status, 0);
    EXPECT_EQ(export_to("/dev/full/bag", {"--marked"}).status, 1);
    std::vector<std::string> said;
    const auto all = summary();
    for (const auto& c : all["commands"]) {
        said.push_back(c["command"].get<std::string>() + " " + dumped(c["exit"]) + " " +
                       c["state"].get<std::string>());
        EXPECT_EQ(c["version"], "0.1");
        EXPECT_LE(c["started"], c["ended"]);
    }
    EXPECT_THAT(said, ::testing::ElementsAre("scan 0 done", "check 0 done", "mark 0 done", "export 0 done"));
    const auto& last = all["commands"].back();
    EXPECT_EQ(last["options"], json({"card.shelf", "--to", "bag", "--marked"}));
    EXPECT_EQ(last["folder"], folder.at("bag"));
}

TEST_F(Rounds, RunWithAShelfThatCannotBeWrittenTo) {
    fs::create_directory(folder.at("theirs"));
    fs::copy_file(folder.at("card.shelf"), folder.at("theirs/card.shelf"));
    // Somebody writes to it, and does not stop.
    SQLite::Database db(folder.at("theirs/card.shelf"), SQLite::OPEN_READWRITE);
    db.exec("PRAGMA journal_mode=WAL");
    db.exec("BEGIN IMMEDIATE");
    const auto ran = run({"export", "theirs/card.shelf", "--to", "bag", "--all"});
    EXPECT_EQ(ran.status, 0) << ran.err;
    EXPECT_THAT(ran.err, HasSubstr("this export is not remembered in the shelf: Another command is writing"));
    EXPECT_EQ(files_in("bag"), all_);
    db.exec("ROLLBACK");
    // The next one into the bag makes up for it.
    const auto again = run({"export", "theirs/card.shelf", "--to", "bag", "--all"});
    EXPECT_THAT(again.out, HasSubstr("nothing to add"));
    EXPECT_EQ(run({"list", "theirs/card.shelf", "--not-exported", "--format", "jsonl"}).out, "");
}

TEST_F(Rounds, KeepWhatOthersHaveDone) {
    ASSERT_EQ(export_to("bag", {"--origin", "live"}).status, 0);
    fs::remove(folder.at("bag/data/live/CUES.TXT"));
    folder.write("bag/data/live/PROPS.CSV", std::string("somebody's own"));
    // In the place of what comes next, in other letters, and as a folder.
    fs::create_directories(folder.at("bag/data/Deleted"));
    fs::create_directories(folder.at("bag/data/live/notes.txt"));
    folder.write("bag/data/Deleted/_OX.TXT", std::string("a fox of their own"));
    const auto ran = export_to("bag", {"--all"});
    EXPECT_EQ(ran.status, 1);
    EXPECT_THAT(ran.err, AllOf(HasSubstr("2 files of earlier rounds in bag are missing or changed"),
                               HasSubstr("data/live/CUES.TXT"), HasSubstr("undershelf verify bag"),
                               HasSubstr("1 file in bag is not from an export: data/Deleted/_OX.TXT")));
    EXPECT_EQ(file("bag/data/Deleted/_OX.TXT"), "a fox of their own");
    EXPECT_EQ(file("bag/data/live/PROPS.CSV"), "somebody's own");
    EXPECT_EQ(file("bag/data/live/PROPS~2.CSV"), sample_text("props", 900));
    EXPECT_EQ(file("bag/data/live/CUES.TXT"), sample_text("cues", 3000));
    EXPECT_EQ(file("bag/data/deleted~2/_OX.TXT"), sample_text("fox", 2000));
    const auto verified = run({"verify", "bag"});
    EXPECT_EQ(verified.status, 1);
    EXPECT_THAT(verified.out, AllOf(HasSubstr("PROPS.CSV is not what was exported"),
                                    HasSubstr("_OX.TXT was added"), HasSubstr("1 changed, 1 added")));
}

TEST_F(Rounds, AreFinishedByTheirOwnCommand) {
    ASSERT_EQ(export_to("bag", {"--origin", "live"}).status, 0);
    const auto kill = [&](int call) {
        return shell(
            "LD_PRELOAD=" UNDERSHELF_FAULTY_CALLS " FAULT_HOW=kill FAULT_AT=" + std::to_string(call) +
            " " UNDERSHELF_PROGRAM " export card.shelf --to bag --lost --ext txt,png");
    };
    const auto is_cut_off = [&] { return fs::exists(folder.at("bag/.unfinished/journal.jsonl")); };
    for (int call = 40; !is_cut_off() && call > 1; --call) kill(call);
    ASSERT_TRUE(is_cut_off());
    const auto verified = run({"verify", "bag"});
    EXPECT_EQ(verified.status, 1);
    EXPECT_THAT(verified.out, AllOf(HasSubstr("2 of 2 files as written"),
                                    HasSubstr("undershelf export card.shelf --to bag --lost --ext txt,png")));
    EXPECT_THAT(verified.err, HasSubstr("a round of bag is not finished"));
    const auto other = export_to("bag", {"--all"});
    EXPECT_EQ(other.status, 4);
    EXPECT_THAT(other.err,
                HasSubstr("Its command: undershelf export card.shelf --to bag --lost --ext txt,png"));
    EXPECT_EQ(export_to("bag", {"--lost", "--ext", "txt,png"}).status, 0);
    EXPECT_EQ(run({"verify", "bag"}).status, 0);
    EXPECT_EQ(files_in("bag"), all_);
}

TEST_F(Rounds, SurviveAHundredKills) {
#ifdef UNDERSHELF_SANITIZED
    GTEST_SKIP() << "sanitizers come before everything else themselves";
#endif
    ASSERT_EQ(export_to("first", {"--origin", "live"}).status, 0);
    const std::string second = " " UNDERSHELF_PROGRAM " export card.shelf --to bag --all";
    const auto begin = [&] { shell("rm -rf bag card.shelf* && cp -a first bag && cp scanned card.shelf"); };
    ASSERT_EQ(shell("cp card.shelf scanned").status, 0);
    begin();
    ASSERT_EQ(shell("LD_PRELOAD=" UNDERSHELF_FAULTY_CALLS " FAULT_COUNT=count" + second).status, 0);
    const auto calls = std::stol(file("count"));
    std::mt19937 random(11);
    int unfinished = 0;
    for (int i = 0; i < 100; ++i) {
        const auto call = 1 + static_cast<long>(random() % static_cast<unsigned long>(calls));
        SCOPED_TRACE("killed at call " + std::to_string(call) + " of " + std::to_string(calls));
        begin();
        shell("LD_PRELOAD=" UNDERSHELF_FAULTY_CALLS " FAULT_HOW=kill FAULT_AT=" + std::to_string(call) +
              second);
        const auto verified = parsed(run({"verify", "bag", "--format", "json"}).out);
        EXPECT_EQ(verified["differences"], json::array());
        EXPECT_GE(verified["as_written"], 2);
        unfinished += !verified["unfinished"].empty();
        EXPECT_EQ(export_to("bag", {"--all"}).status, 0);
        EXPECT_EQ(files_in("bag"), all_);
        EXPECT_THAT(against_bagit(folder.at("bag")), IsEmpty());
        EXPECT_EQ(run({"verify", "bag"}).status, 0);
        EXPECT_EQ(listed({"--not-exported"}), std::set<std::string>());
        if (HasFailure()) return;
    }
    EXPECT_GT(unfinished, 0);
}

TEST_F(Rounds, GoToTheNextDestinationWhenOneHasNoRoom) {
    const Mounted small(folder.at("small"), "mount -t tmpfs -o size=1200k none " + folder.at("small"));
    UNDERSHELF_NEEDS(small.made().status == 0, "mounting a small file system", small.made().err);
    // Of the room there hardly anything is left.
    ASSERT_EQ(shell("head -c 156k /dev/zero > small/somebody.else").status, 0);
    const std::vector<std::string> both{"export", "card.shelf", "--to", "small/bag", "--to", "rest", "--all"};
    const auto ran = run(both);
    EXPECT_EQ(ran.status, 0) << ran.err;
    EXPECT_THAT(ran.out, AllOf(HasSubstr("small/bag: "), HasSubstr("rest: ")));
    auto files = files_in("small/bag");
    const auto rest = files_in("rest");
    EXPECT_FALSE(files.empty());
    EXPECT_FALSE(rest.empty());
    for (const auto& f : rest) EXPECT_TRUE(files.insert(f).second) << f << " is in both";
    EXPECT_EQ(files, all_);
    for (const char* bag : {"small/bag", "rest"}) {
        EXPECT_EQ(run({"verify", bag}).status, 0);
        EXPECT_THAT(against_bagit(folder.at(bag)), IsEmpty());
    }
    EXPECT_THAT(run(both).out, HasSubstr("nothing to add: 4 selected files are in the bags already"));
    EXPECT_EQ(listed({"--not-exported"}), std::set<std::string>());
    EXPECT_EQ(run({"export", "card.shelf", "--to", "rest", "--to", "./rest", "--all"}).status, 2);
}

TEST_F(Rounds, AreFinishedInTheSecondDestinationAsWell) {
    ASSERT_EQ(export_to("one", {"--origin", "live"}).status, 0);
    const std::vector<std::string> both{"export", "card.shelf", "--to", "one", "--to", "rest", "--all"};
    ASSERT_EQ(export_to("rest", {"--all"}).status, 0);
    // As if it had been cut off when it had everything but its end: the job has no word of folders.
    const auto info = file("rest/bag-info.txt");
    const std::string label = "Undershelf-Round: ";
    const auto at = info.find(label) + label.size();
    const json job = dumped(ordered_parsed(info.substr(at, info.find('\n', at) - at))["job"]);
    const auto lines = file("rest/exported.jsonl");
    for (const char* name :
         {"bagit.txt", "bag-info.txt", "exported.jsonl", "manifest-sha256.txt", "tagmanifest-sha256.txt"})
        fs::remove(folder.at(std::string("rest/") + name));
    fs::create_directory(folder.at("rest/.unfinished"));
    const std::string command = R"(["export","card.shelf","--to","my stick","--all"])";
    folder.write("rest/.unfinished/journal.jsonl",
                 "{\"job\":" + dumped(job) + ",\"command\":" + command + "}\n" + lines);
    EXPECT_THAT(run({"verify", "rest"}).out, HasSubstr("undershelf export card.shelf --to 'my stick' --all"));
    const auto ran = run(both);
    EXPECT_EQ(ran.status, 0) << ran.err;
    EXPECT_THAT(ran.out, HasSubstr("4 complete"));
    EXPECT_EQ(run({"verify", "rest"}).status, 0);
    EXPECT_THAT(against_bagit(folder.at("rest")), IsEmpty());
    EXPECT_THAT(run(both).out, HasSubstr("nothing to add: 4 selected files"));
    // What a bag from elsewhere gives for a command is nothing but an export.
    fs::create_directories(folder.at("theirs/.unfinished"));
    folder.write("theirs/.unfinished/journal.jsonl",
                 std::string(R"({"job":"x","command":["capture","a","b"]})"));
    EXPECT_THAT(run({"verify", "theirs"}).out, Not(HasSubstr("capture")));
    folder.write("theirs/.unfinished/journal.jsonl",
                 std::string(R"({"job":"x","command":["export","\u001b[2J"]})"));
    EXPECT_THAT(run({"verify", "theirs"}).out, HasSubstr("undershelf export SHELF --to theirs"));
}

TEST_F(Rounds, TellCapitalsApartWhereTheDestinationDoesNot) {
    const auto at = folder.at("exfat");
    const Mounted exfat(at, "truncate -s 32M " + at + ".img && mkfs.exfat " + at +
                                ".img >/dev/null && "
                                "mount.exfat-fuse $(losetup -f --show " +
                                at + ".img) " + at);
    UNDERSHELF_NEEDS(exfat.made().status == 0, "mounting exFAT by exfat-fuse", exfat.made().err);
    EXPECT_EQ(export_to("exfat/bag", {"--origin", "live"}).status, 0);
    // The same file in other letters; a folder in other letters.
    folder.write("exfat/bag/data/live/fox.txt", std::string("theirs"));
    fs::create_directories(folder.at("exfat/bag/data/DELETED"));
    const auto ran = export_to("exfat/bag", {"--all"});
    EXPECT_EQ(ran.status, 0) << ran.err;
    EXPECT_EQ(file("exfat/bag/data/live/FOX.TXT"), "theirs");
    EXPECT_EQ(file("exfat/bag/data/deleted~2/_OX.TXT"), sample_text("fox", 2000));
    const auto verified = run({"verify", "exfat/bag"});
    EXPECT_THAT(verified.out, HasSubstr("4 of 4 files as written, 1 added"));
    shell("losetup -D");
}

TEST_F(Rounds, KeepWhatIsFinishedWhenTheDestinationGoesAway) {
    const Mounted there(folder.at("there"), "mount -t tmpfs -o size=8m none " + folder.at("there"));
    UNDERSHELF_NEEDS(there.made().status == 0, "mounting a file system", there.made().err);
    ASSERT_EQ(export_to("there/bag", {"--origin", "live"}).status, 0);
    // It can be read alone.
    ASSERT_EQ(shell("mount -o remount,ro there").status, 0);
    const auto read_only = export_to("there/bag", {"--all"});
    EXPECT_EQ(read_only.status, 1);
    EXPECT_THAT(read_only.err,
                AllOf(HasSubstr("Nothing can be written to there/bag"), HasSubstr("ead-only")));
    EXPECT_EQ(run({"verify", "there/bag"}).status, 0);
    ASSERT_EQ(shell("mount -o remount,rw there").status, 0);
    EXPECT_EQ(export_to("there/bag", {"--all"}).status, 0);
    EXPECT_EQ(run({"verify", "there/bag"}).status, 0);
    EXPECT_EQ(files_in("there/bag"), all_);
}

}  // namespace undershelf::test
