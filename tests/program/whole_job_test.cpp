// The program from scan to export, on volumes written for the purpose.

#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <sys/stat.h>

#include <nlohmann/json.hpp>
#include <sstream>

#include "base/sha256.hpp"
#include "support/fat_image.hpp"
#include "support/program_test.hpp"

namespace undershelf::test {

namespace {

using nlohmann::json;
using ::testing::HasSubstr;

class WholeJob : public ProgramTest {
  protected:
    std::vector<json> rows(std::vector<std::string> more = {}) {
        more.insert(more.begin(), {"list", "card.shelf", "--format", "jsonl"});
        return lines_of(run(more).out);
    }
    std::vector<std::string> names(std::vector<std::string> more) {
        std::vector<std::string> out;
        for (const auto& row : rows(std::move(more))) out.push_back(row["name"]);
        return out;
    }
    json exported(const std::string& name) {
        std::istringstream lines(read_file(folder.at("out/exported.jsonl")));
        for (std::string line; std::getline(lines, line);) {
            auto j = parsed(line);
            if (j["path"].get<std::string>().ends_with(name)) return j;
        }
        return {};
    }

    /// A card with a folder, live and deleted files.
    void make_card() {
        card.chain({4});
        card.make_folder(4, 0);
        card.add(0, {"SCRIPTS    ", u"Scripts", 4, 0, 0x10});
        card.put(4, "WINTER~1TXT", u"Winter play.txt", {10, 11}, winter);
        card.erase(card.put(4, "SUMMER~1TXT", u"Summer play.txt", {20, 21}, summer));
        card.erase(card.put(0, "OWL     WAV", u"", {30}, "RIFF....WAVE"));
        card.put(0, "CUES    CSV", u"cues.csv", {40}, "a,b\n");
        folder.write("card.img", card.bytes());
    }
    FatImage card;
    const std::string winter = sample_text("Winter", 900);
    const std::string summer = sample_text("Summer", 1000);
};

}  // namespace

TEST_F(WholeJob, ScansListsAndExports) {
    make_card();
    const auto scan = run({"scan", "card.img"});
    ASSERT_EQ(scan.status, 0) << scan.err;
    EXPECT_THAT(scan.out, HasSubstr("5 entries in card.shelf"));
    EXPECT_THAT(names({"--lost"}), ::testing::UnorderedElementsAre("Summer play.txt", "_WL.WAV"));
    const auto result = run({"export", "card.shelf", "--to", "out", "--all"});
    EXPECT_EQ(result.status, 0) << result.err;
    EXPECT_EQ(read_file(folder.at("out/data/live/Scripts/Winter play.txt")), winter);
    EXPECT_EQ(read_file(folder.at("out/data/deleted/Scripts/Summer play.txt")), summer);
    EXPECT_EQ(exported("Summer play.txt")["outcome"], "complete");
    const auto check = run_in(folder.at("out"), {"sha256sum", "-c", "--strict", "manifest-sha256.txt"});
    EXPECT_EQ(check.status, 0) << check.err;
    EXPECT_THAT(read_file(folder.at("out/bagit.txt")), HasSubstr("BagIt-Version: 1.0"));
}

TEST_F(WholeJob, ListsEveryFieldOfTheContract) {
    make_card();
    run({"scan", "card.img"});
    const auto all = rows();
    ASSERT_EQ(all.size(), 5u);
    for (const char* field :
         {"id",      "volume", "origin", "path",         "name",    "stream",   "name_certainty",
          "is_dir",  "system", "binned", "first_path",   "kind",    "ext",      "size",
          "grade",   "chance", "left",   "layout",       "created", "modified", "accessed",
          "deleted", "marked", "helper", "earlier_names"}) {
        for (const auto& row : all) EXPECT_TRUE(row.contains(field)) << field;
    }
    const auto owl = rows({"--name", "_wl.*"}).at(0);
    EXPECT_EQ(owl["name_certainty"], "first letter unknown");
    EXPECT_EQ(owl["kind"], "audio");
    EXPECT_EQ(owl["modified"], "2025-03-04T10:00:00");
    EXPECT_TRUE(rows({"--name", "Scripts"}).at(0)["grade"].is_null());
}

TEST_F(WholeJob, Selects) {
    make_card();
    run({"scan", "card.img"});
    using ::testing::ElementsAre;
    EXPECT_THAT(names({"--ext", "CSV"}), ElementsAre("cues.csv"));
    EXPECT_THAT(names({"--under", "scripts", "--no-live"}), ElementsAre("Summer play.txt"));
    EXPECT_THAT(names({"--name", "*play*", "--sort", "-name"}),
                ElementsAre("Winter play.txt", "Summer play.txt"));
    EXPECT_THAT(names({"--size", "950..1k"}), ElementsAre("Summer play.txt"));
    EXPECT_THAT(names({"--origin", "deleted", "--kind", "audio"}), ElementsAre("_WL.WAV"));
    EXPECT_THAT(names({"--modified", "2025-03-04..", "--ext", "txt,csv", "--sort", "size"}),
                ElementsAre("cues.csv", "Winter play.txt", "Summer play.txt"));
    EXPECT_TRUE(names({"--modified", "..2025-03-03"}).empty());
    EXPECT_TRUE(names({"--volume", "2"}).empty());
    EXPECT_THAT(names({"--name", "scripts/*.txt"}), ElementsAre("Winter play.txt", "Summer play.txt"));
    EXPECT_TRUE(names({"--name", "scripts/*.txt", "--match-case"}).empty());
    EXPECT_EQ(run({"list", "card.shelf", "--size", "lots"}).status, 2);
    EXPECT_EQ(run({"list", "card.shelf", "--sort", "colour"}).status, 2);
    EXPECT_EQ(run({"list", "card.shelf", "--grade", "excellent"}).status, 2);
}

TEST_F(WholeJob, ReadsVolumesInPartitions) {
    make_card();
    ByteVector disk(512 * 64);
    const auto volume = card.bytes();
    const auto add = [&](int index, std::size_t sector) {
        disk.resize(sector * 512);
        disk.insert(disk.end(), volume.begin(), volume.end());
        auto* p = disk.data() + 446 + index * 16;
        p[4] = 0x0C;
        p[8] = static_cast<std::uint8_t>(sector);
        p[9] = static_cast<std::uint8_t>(sector >> 8);
        p[12] = static_cast<std::uint8_t>(volume.size() / 512);
        p[13] = static_cast<std::uint8_t>(volume.size() / 512 >> 8);
    };
    add(0, 64);
    add(1, 64 + volume.size() / 512 + 16);
    disk[510] = 0x55;
    disk[511] = 0xAA;
    folder.write("card.img", disk);
    EXPECT_EQ(run({"scan", "card.img"}).status, 0);
    EXPECT_EQ(rows().size(), 10u);
    EXPECT_EQ(rows({"--volume", "2"}).size(), 5u);
    EXPECT_EQ(run({"export", "card.shelf", "--to", "out", "--all"}).status, 0);
    EXPECT_EQ(read_file(folder.at("out/data/deleted/volume-2/Scripts/Summer play.txt")), summer);
}

TEST_F(WholeJob, MarksWhatAFailingDriveDoesNotGive) {
    make_card();
    const auto bad = card.cluster_offset(21);
    folder.write("bad.csv", "offset,length\n" + std::to_string(bad) + ",100\n");
    const auto scan = run({"scan", "card.img", "--unreadable", "bad.csv"});
    EXPECT_EQ(scan.status, 1);
    EXPECT_THAT(scan.err, HasSubstr("could not be read"));
    EXPECT_EQ(rows({"--name", "Summer*"}).at(0)["grade"], "partial");
    EXPECT_EQ(run({"export", "card.shelf", "--to", "out", "--all"}).status, 1);
    const auto line = exported("Summer play.txt");
    EXPECT_EQ(line["outcome"], "partial");
    EXPECT_EQ(line["missing"], parsed("[[512, 488]]"));
    const auto content = read_file(folder.at("out/data/deleted/Scripts/Summer play.txt"));
    EXPECT_EQ(content, summer.substr(0, 512) + std::string(488, '\0'));
}

TEST_F(WholeJob, OverwritesNothing) {
    make_card();
    run({"scan", "card.img"});
    std::filesystem::create_directory(folder.at("out"));
    folder.write("out/mine.txt", "mine");
    const auto result = run({"export", "card.shelf", "--to", "out", "--all"});
    EXPECT_EQ(result.status, 4);
    EXPECT_EQ(read_file(folder.at("out/mine.txt")), "mine");
    EXPECT_EQ(run({"scan", "card.img", "--shelf", "card.img"}).status, 4);
    EXPECT_EQ(read_file(folder.at("card.img")).size(), card.bytes().size());
}

TEST_F(WholeJob, WantsToKnowWhatToExport) {
    make_card();
    run({"scan", "card.img"});
    const auto result = run({"export", "card.shelf", "--to", "out"});
    EXPECT_EQ(result.status, 2);
    EXPECT_THAT(result.err, HasSubstr("--all"));
    EXPECT_FALSE(std::filesystem::exists(folder.at("out")));
}

TEST_F(WholeJob, ScansAgainWithoutReadingTwice) {
    make_card();
    run({"scan", "card.img"});
    const auto again = run({"scan", "card.img"});
    EXPECT_EQ(again.status, 0);
    EXPECT_THAT(again.out, HasSubstr("already contains this scan"));
    card.bytes()[600] ^= 0xFF;
    folder.write("card.img", card.bytes());
    const auto other = run({"scan", "card.img"});
    EXPECT_EQ(other.status, 3);
    EXPECT_THAT(other.err, HasSubstr("is not the source of"));
    EXPECT_EQ(run({"export", "card.shelf", "--to", "out", "--all"}).status, 3);
}

TEST_F(WholeJob, FindsVolumesThatNoMapLeadsTo) {
    make_card();
    ByteVector disk(3 * 512);
    disk.insert(disk.end(), card.bytes().begin(), card.bytes().end());
    folder.write("disk.img", disk);
    const auto plain = run({"scan", "disk.img"});
    EXPECT_EQ(plain.status, 1);
    EXPECT_THAT(plain.out, HasSubstr("undershelf scan disk.img --shelf disk.shelf --reach "));
    const auto swept = run({"scan", "disk.img", "--reach", "traces"});
    EXPECT_EQ(swept.status, 0) << swept.err;
    EXPECT_THAT(swept.out, HasSubstr("at offset 1,536"));
    const auto summary = parsed(run({"summary", "disk.shelf", "--format", "json"}).out);
    ASSERT_EQ(summary["volumes"].size(), 1u);
    EXPECT_EQ(summary["volumes"][0]["offset"], 1536);
    EXPECT_EQ(summary["volumes"][0]["state"], "present");
    EXPECT_GT(summary["volumes"][0]["files"], 0);
    EXPECT_EQ(summary["scans"].size(), 2u);
    EXPECT_EQ(summary["scans"][1]["reach"], "traces");
    EXPECT_FALSE(summary["next"].empty());
}

TEST_F(WholeJob, AnswersBadInputWithSentences) {
    folder.write("empty.img", "");
    folder.write("text.img", sample_text("only text", 20'000));
    make_card();
    auto cut = card.bytes();
    cut.resize(100);
    folder.write("cut.img", cut);
    folder.write("text.shelf", "no shelf");
    struct Case {
        std::vector<std::string> arguments;
        int status;
        const char* words;
    };
    for (const auto& c :
         std::vector<Case>{{{"scan", "empty.img"}, 3, "empty"},
                           {{"scan", "text.img", "--shelf", "a.shelf"}, 1, "No supported volume"},
                           {{"scan", "cut.img"}, 1, "No supported volume"},
                           {{"scan", "cut.img", "--reach", "everything"}, 2, "is not a reach"},
                           {{"scan", "missing.img"}, 3, "missing.img"},
                           {{"scan", "-"}, 3, "Standard input"},
                           {{"scan", "."}, 3, "folder"},
                           {{"scan", "card.img", "--shelf", "text.shelf"}, 3, "not a shelf"},
                           {{"scan", "card.img", "--code-page", "1"}, 2, "Code page"},
                           {{"scan", "card.img", "--reach", "far"}, 2, "reach"},
                           {{"scan"}, 2, "SOURCE"},
                           {{"list", "text.shelf"}, 3, "not a shelf"},
                           {{"list", "missing.shelf"}, 3, "no shelf"},
                           {{"fetch"}, 2, "no command"},
                           {{"list", "text.shelf", "--wrong"}, 2, "wrong"}}) {
        const auto result = run(c.arguments);
        EXPECT_EQ(result.status, c.status) << c.arguments[0] << ' ' << result.err;
        EXPECT_THAT(result.err, HasSubstr(c.words));
        EXPECT_TRUE(result.status == 1 || result.out.empty()) << result.out;
    }
    EXPECT_FALSE(std::filesystem::exists(folder.at("text.img.shelf")));
}

TEST_F(WholeJob, RefusesAShelfOfAnotherVersion) {
    make_card();
    run({"scan", "card.img"});
    auto bytes = read_file(folder.at("card.shelf"));
    bytes[63] = 99;  // the low byte of user_version in SQLite's header
    folder.write("card.shelf", bytes);
    const auto result = run({"list", "card.shelf"});
    EXPECT_EQ(result.status, 3);
    EXPECT_THAT(result.err, HasSubstr("version 99"));
}

TEST_F(WholeJob, ShowsAnEntryInFull) {
    make_card();
    run({"scan", "card.img"});
    const auto id = std::to_string(rows({"--name", "Summer*"}).at(0)["id"].get<int>());
    const auto shown = run({"show", "card.shelf", id});
    EXPECT_EQ(shown.status, 0) << shown.err;
    for (const char* words : {"Scripts/Summer play.txt", "deleted, volume 1", "1000", "assumed, stored",
                              "in one run", "chance x", "VERDICT", "likely"})
        EXPECT_THAT(shown.out, HasSubstr(words));
    EXPECT_EQ(run({"show", "card.shelf", "999"}).status, 2);
    EXPECT_EQ(run({"show", "card.shelf", "x"}).status, 2);
}

TEST_F(WholeJob, PeeksAtContents) {
    make_card();
    run({"scan", "card.img"});
    const auto id = [&](const char* name) {
        return std::to_string(rows({"--name", name}).at(0)["id"].get<int>());
    };
    const auto text = run({"peek", "card.shelf", id("Summer*"), "--bytes", "100"});
    EXPECT_EQ(text.status, 0) << text.err;
    EXPECT_THAT(text.out, HasSubstr("Summer, line 0."));
    const auto hex = run({"peek", "card.shelf", id("_WL*"), "--as", "hex"});
    EXPECT_THAT(hex.out, HasSubstr("52 49 46 46"));
    EXPECT_THAT(hex.out, HasSubstr("|RIFF....WAVE|"));
    EXPECT_EQ(run({"peek", "card.shelf", id("Summer*"), "--to", "summer.txt"}).status, 0);
    EXPECT_EQ(read_file(folder.at("summer.txt")), summer);
    EXPECT_EQ(run({"peek", "card.shelf", id("Summer*"), "--to", "summer.txt"}).status, 4);
    EXPECT_EQ(run({"peek", "card.shelf", id("Summer*"), "--to", "card.img"}).status, 4);
    EXPECT_EQ(run({"peek", "card.shelf", id("Scripts")}).status, 2);
}

TEST_F(WholeJob, MarksAndUnmarks) {
    make_card();
    run({"scan", "card.img"});
    EXPECT_THAT(run({"mark", "card.shelf", "--under", "Scripts"}).out,
                HasSubstr("2 entries newly marked\nmarked now: 2 files"));
    EXPECT_THAT(run({"mark", "card.shelf", "--name", "*play*", "--ext", "csv,txt"}).out,
                HasSubstr("0 entries newly marked"));
    EXPECT_THAT(run({"unmark", "card.shelf", "--origin", "live"}).out,
                HasSubstr("1 entry unmarked\nmarked now: 1 file,"));
    EXPECT_THAT(names({"--marked"}), ::testing::ElementsAre("Summer play.txt"));
    EXPECT_EQ(run({"mark", "card.shelf"}).status, 2);
    EXPECT_EQ(run({"export", "card.shelf", "--to", "out", "--marked"}).status, 0);
    EXPECT_TRUE(std::filesystem::exists(folder.at("out/data/deleted/Scripts/Summer play.txt")));
    EXPECT_FALSE(std::filesystem::exists(folder.at("out/data/live")));
}

TEST_F(WholeJob, KnowsCopies) {
    card.put(0, "KEPT    TXT", u"kept.txt", {50, 51}, winter);
    card.erase(card.put(0, "COPY    TXT", u"copy.txt", {60, 61}, winter));
    card.erase(card.put(0, "OTHER   TXT", u"other.txt", {70, 71}, sample_text("Summer", 900)));
    folder.write("card.img", card.bytes());
    run({"scan", "card.img"});
    EXPECT_THAT(names({"--lost", "--hide-copies"}), ::testing::ElementsAre("other.txt"));
    const auto id = std::to_string(rows({"--name", "kept.txt"}).at(0)["id"].get<int>());
    EXPECT_THAT(names({"--same-as", id}), ::testing::ElementsAre("kept.txt", "copy.txt"));
    EXPECT_THAT(run({"summary", "card.shelf"}).out, HasSubstr("still there as a live file"));
}

TEST_F(WholeJob, VerifiesAnExport) {
    make_card();
    run({"scan", "card.img"});
    run({"export", "card.shelf", "--to", "out", "--all"});
    const auto sound = run({"verify", "out"});
    EXPECT_EQ(sound.status, 0) << sound.err;
    EXPECT_THAT(sound.out, HasSubstr("4 of 4 files as written"));
    folder.write("out/data/live/cues.csv", "changed");
    folder.write("out/data/stranger.txt", "x");
    std::filesystem::remove(folder.at("out/data/deleted/_WL.WAV"));
    const auto wrong = run({"verify", "out"});
    EXPECT_EQ(wrong.status, 1);
    for (const char* words :
         {"cues.csv is not what was exported", "stranger.txt was added", "_WL.WAV is missing", "2 of 4"})
        EXPECT_THAT(wrong.out, HasSubstr(words));
    EXPECT_EQ(run({"verify", "."}).status, 3);
    folder.write("out/manifest-sha256.txt", std::string(64, 'a') + "  ../../etc/passwd\nnonsense\n");
    EXPECT_THAT(run({"verify", "out"}).out, HasSubstr("outside the bag"));
}

TEST_F(WholeJob, ExportsFlat) {
    make_card();
    run({"scan", "card.img"});
    EXPECT_EQ(run({"export", "card.shelf", "--to", "out", "--all", "--tree", "flat"}).status, 0);
    EXPECT_EQ(read_file(folder.at("out/data/deleted/Summer play.txt")), summer);
    EXPECT_FALSE(std::filesystem::exists(folder.at("out/data/live/Scripts")));
}

TEST_F(WholeJob, KeepsDatesAndHoles) {
    const std::string mostly_zeros = "start" + std::string(300'000, '\0') + "end";
    std::vector<fat::Cluster> clusters;
    for (fat::Cluster c = 100; c < 100 + mostly_zeros.size() / 512 + 1; ++c) clusters.push_back(c);
    card.put(0, "HOLES   BIN", u"holes.bin", clusters, mostly_zeros);
    folder.write("card.img", card.bytes());
    for (const char* zone : {"1a", "5x", "+1:", "2 ", "", "+15:00", "1:60"})
        EXPECT_EQ(run({"scan", "card.img", "--zone", zone}).status, 2) << zone;
    run({"scan", "card.img", "--zone", "+00:00"});
    EXPECT_EQ(run({"export", "card.shelf", "--to", "out", "--all"}).status, 0);
    EXPECT_EQ(read_file(folder.at("out/data/live/holes.bin")), mostly_zeros);
    struct stat status {};
    ASSERT_EQ(::stat(folder.at("out/data/live/holes.bin").c_str(), &status), 0);
    EXPECT_EQ(status.st_mtim.tv_sec, 1741082400);  // 2025-03-04 10:00 UTC
    EXPECT_LT(status.st_blocks * 512, 300'000);
    EXPECT_EQ(rows({"--name", "holes.bin"}).at(0)["modified"], "2025-03-04T10:00:00Z");
}

TEST_F(WholeJob, SaysWhenADriveDiscards) {
    for (fat::Cluster c = 10; c < 18; ++c)
        card.erase(
            card.put(0, "PHOTO" + std::to_string(c) + " JPG", u"", {c, c + 100}, std::string(900, '\0')));
    folder.write("card.img", card.bytes());
    run({"scan", "card.img"});
    EXPECT_THAT(run({"summary", "card.shelf"}).out, HasSubstr("discards what is deleted (TRIM): 8 of 8"));
}

TEST_F(WholeJob, RunsTheDemo) {
    const auto result = run({"demo", "demo"});
    EXPECT_EQ(result.status, 0) << result.err;
    EXPECT_THAT(result.out, HasSubstr("The fox under the bridge, act 1.txt"));
    EXPECT_TRUE(std::filesystem::exists(folder.at("demo/rescued/manifest-sha256.txt")));
    EXPECT_EQ(run({"demo", "demo"}).status, 0);
    std::filesystem::create_directory(folder.at("mine"));
    folder.write("mine/file", "x");
    EXPECT_EQ(run({"demo", "mine"}).status, 4);
}

}  // namespace undershelf::test
