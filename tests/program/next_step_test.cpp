// The next step, from the first look to the finished export, as the program gives it.

#include <SQLiteCpp/SQLiteCpp.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <filesystem>
#include <nlohmann/json.hpp>
#include <sstream>

#include "support/fat_image.hpp"
#include "support/memory_content.hpp"
#include "support/program_test.hpp"

namespace undershelf::test {

namespace {

using nlohmann::json;
using ::testing::AllOf;
using ::testing::ElementsAre;
using ::testing::HasSubstr;
using ::testing::Not;

class NextStep : public ProgramTest {
  protected:
    json run_json(std::vector<std::string> arguments) {
        arguments.insert(arguments.end(), {"--format", "json"});
        const auto ran = run(arguments);
        EXPECT_LE(ran.status, 1) << ran.err;
        return parsed(ran.out);
    }
    static std::string first_of(const json& answer) {
        std::string out;
        for (const auto& word : answer["steps"].empty() ? json::array() : answer["steps"][0]["argv"])
            out += (out.empty() ? "" : " ") + word.get<std::string>();
        return out;
    }
    static std::string said_by(const json& answer) {
        std::string out;
        for (const auto& sentence : answer["next"]) out += sentence.get<std::string>() + "\n";
        return out;
    }
    static std::string text_of(const ByteVector& bytes) { return {bytes.begin(), bytes.end()}; }

    /// A card with a live script, a deleted poster, and, where it is asked for, a sound that nothing names.
    void make_card(bool nameless) {
        FatImage card({.clusters = 3000, .sectors_per_cluster = 1});
        fat::Cluster at = 10;
        const auto put = [&](const std::string& name, const std::string& content) {
            std::vector<fat::Cluster> clusters;
            for (std::size_t n = 0; n < content.size(); n += 512) clusters.push_back(at++);
            return card.put(0, name, u"", clusters, content);
        };
        put("SCRIPT  TXT", sample_text("script", 3000));
        card.erase(put("POSTER  PNG", text_of(png_file())));
        auto bytes = card.bytes();
        if (nameless) {
            const auto sound = flac_file();
            std::copy(sound.begin(), sound.end(),
                      bytes.begin() + static_cast<std::ptrdiff_t>(card.cluster_offset(500)));
        }
        folder.write("card.img", bytes);
    }
};

}  // namespace

TEST_F(NextStep, LeadsFromTheFirstLookToTheEnd) {
    make_card(false);
    EXPECT_EQ(first_of(run_json({"inspect", "card.img"})), "undershelf scan card.img");
    const auto scanned = run_json({"scan", "card.img"});
    EXPECT_EQ(scanned["state"], "done");
    EXPECT_EQ(scanned["volumes"].size(), 1u);
    EXPECT_EQ(first_of(scanned), "undershelf check card.shelf");
    const auto checked = run_json({"check", "card.shelf"});
    EXPECT_EQ(checked["checked"], 1);
    EXPECT_EQ(first_of(checked), "undershelf tree card.shelf --lost");
    const auto summary = run_json({"summary", "card.shelf"});
    EXPECT_EQ(first_of(summary), "undershelf export card.shelf --to DIR --lost --grade likely+");
    EXPECT_THAT(said_by(summary),
                AllOf(Not(HasSubstr("undershelf tree")), Not(HasSubstr("undershelf check"))));
    const auto exported =
        run_json({"export", "card.shelf", "--to", "rescued", "--lost", "--grade", "likely+"});
    EXPECT_EQ(exported["files"], 1);
    EXPECT_EQ(first_of(exported), "undershelf verify rescued");
    const auto verified = run_json({"verify", "rescued"});
    EXPECT_EQ(verified["as_written"], 1);
    EXPECT_EQ(first_of(verified), "");
    const auto end = run_json({"summary", "card.shelf"});
    EXPECT_EQ(first_of(end), "");
    EXPECT_THAT(said_by(end), AllOf(HasSubstr("exported to"), HasSubstr("The job is done")));
}

TEST_F(NextStep, IsASearchForContentsWhereAFileBeginsInUnclaimedSpace) {
    make_card(true);
    const auto scanned = run_json({"scan", "card.img"});
    EXPECT_EQ(first_of(scanned), "undershelf scan card.img --shelf card.shelf --reach content");
    EXPECT_THAT(said_by(scanned), HasSubstr("1 file seems to begin in space that no entry claims"));
    const auto found = run_json({"scan", "card.img", "--reach", "content"});
    EXPECT_EQ(found["unnamed"], 1);
    EXPECT_THAT(said_by(run_json({"summary", "card.shelf"})), Not(HasSubstr("--reach content")));
}

TEST_F(NextStep, KeepsTheSettingsOfTheScan) {
    make_card(true);
    const auto scanned = run_json({"scan", "card.img", "--code-page", "866", "--zone", "-05:30"});
    EXPECT_THAT(first_of(scanned), HasSubstr("--reach content --code-page 866 --zone -05:30"));
    std::vector<std::string> again;
    for (const auto& word : scanned["steps"][0]["argv"]) again.push_back(word);
    again.erase(again.begin());
    EXPECT_EQ(run(again).status, 0);
    EXPECT_THAT(first_of(run_json({"inspect", "card.img", "--code-page", "866"})),
                HasSubstr("--code-page 866"));
}

TEST_F(NextStep, EndsOnAnImageOfZerosAndOnOneOfNoise) {
    ByteVector noise(1 << 20);
    std::uint32_t state = 1;
    for (auto& b : noise) b = static_cast<std::uint8_t>((state = state * 1664525 + 1013904223) >> 24);
    for (const auto& bytes : {ByteVector(1 << 20), noise}) {
        folder.write("card.img", bytes);
        auto answer = run_json({"inspect", "card.img"});
        int steps = 0;
        for (; !answer["steps"].empty() && steps < 5; ++steps) {
            std::vector<std::string> words;
            for (const auto& word : answer["steps"][0]["argv"]) words.push_back(word);
            words.erase(words.begin());
            answer = run_json(words);
        }
        EXPECT_LT(steps, 5);
        EXPECT_THAT(said_by(answer), HasSubstr("Nothing more can be found here, because"));
        std::filesystem::remove(folder.at("card.shelf"));
    }
}

TEST_F(NextStep, AnEmptySelectionSaysWhichOptionEmptiedIt) {
    make_card(false);
    run({"scan", "card.img"});
    const auto marked = run({"mark", "card.shelf", "--lost", "--kind", "audio"});
    EXPECT_EQ(marked.status, 1);
    EXPECT_THAT(marked.err,
                AllOf(HasSubstr("No entry fits, of 2"), HasSubstr("Without --kind audio 1 entry fits"),
                      HasSubstr("Not done yet: the sweep and the search for contents: undershelf scan")));
    const auto exported = run({"export", "card.shelf", "--to", "out", "--name", "*.mov", "--size", "1G.."});
    EXPECT_EQ(exported.status, 1);
    EXPECT_THAT(exported.err,
                AllOf(HasSubstr("--name *.mov alone fits nothing"), HasSubstr("--size 1G.. alone")));
    EXPECT_FALSE(std::filesystem::exists(folder.at("out")));
    for (const auto* command : {"list", "tree"}) {
        const auto looked = run({command, "card.shelf", "--ext", "mov"});
        EXPECT_EQ(looked.status, 0) << command;
        EXPECT_THAT(looked.err, HasSubstr("Without --ext mov 2 entries fit")) << command;
    }
    const auto lines = run({"list", "card.shelf", "--ext", "mov", "--format", "jsonl"});
    EXPECT_EQ(lines.out, "");
    EXPECT_THAT(lines.err, HasSubstr("Without --ext mov 2 entries fit"));
    EXPECT_EQ(run({"mark", "card.shelf", "--kind", "audio", "--fell-short-ok"}).status, 2);
    EXPECT_EQ(run({"export", "card.shelf", "--to", "out", "--kind", "audio", "--fell-short-ok"}).status, 1);
}

TEST_F(NextStep, WhatWasRefusedLeavesNothingInTheShelf) {
    make_card(false);
    run({"scan", "card.img"});
    std::filesystem::create_directories(folder.at("full"));
    folder.write("full/letter.txt", std::string("hello"));
    const auto before = read_file(folder.at("card.shelf"));
    EXPECT_EQ(run({"export", "card.shelf", "--to", "full", "--lost"}).status, 4);
    EXPECT_TRUE(read_file(folder.at("card.shelf")) == before);
    EXPECT_EQ(run({"export", "card.shelf", "--to", "out", "--lost"}).status, 0);
    const auto after = read_file(folder.at("card.shelf"));
    run({"scan", "card.img", "--shelf", "other.shelf"});
    const auto other = read_file(folder.at("other.shelf"));
    EXPECT_EQ(run({"export", "other.shelf", "--to", "out", "--lost"}).status, 4) << "it is of another shelf";
    EXPECT_TRUE(read_file(folder.at("other.shelf")) == other);
    EXPECT_TRUE(read_file(folder.at("card.shelf")) == after);
}

TEST_F(NextStep, AnOlderShelfIsLookedAtByTheSameScan) {
    make_card(true);
    run({"scan", "card.img"});
    // As a scan leaves it that is ended in its last moment.
    SQLite::Database(folder.at("card.shelf"), SQLite::OPEN_READWRITE)
        .exec("DELETE FROM settings WHERE name = 'space'");
    const auto summary = run_json({"summary", "card.shelf"});
    EXPECT_THAT(first_of(summary), HasSubstr("--shelf card.shelf --reach volumes"));
    EXPECT_THAT(said_by(summary), AllOf(HasSubstr("is not known yet"), Not(HasSubstr("Nothing more"))));
    EXPECT_EQ(first_of(run_json({"scan", "card.img"})),
              "undershelf scan card.img --shelf card.shelf --reach content");
}

TEST_F(NextStep, EverythingOfNothingIsAnEmptyBag) {
    folder.write("card.img", ByteVector(1 << 20));
    run({"scan", "card.img"});
    const auto ran = run({"export", "card.shelf", "--to", "out", "--all"});
    EXPECT_EQ(ran.status, 1);
    EXPECT_THAT(ran.err, HasSubstr("The shelf has no entry."));
    EXPECT_EQ(run({"verify", "out"}).status, 0);
}

TEST_F(NextStep, AScanMayBeAllRightAlthoughItFellShort) {
    make_card(false);
    folder.write("bad.csv", std::string("offset,length\n1024,512\n"));
    EXPECT_EQ(run({"scan", "card.img", "--unreadable", "bad.csv", "--shelf", "a.shelf"}).status, 1);
    EXPECT_EQ(
        run({"scan", "card.img", "--unreadable", "bad.csv", "--shelf", "b.shelf", "--fell-short-ok"}).status,
        0);
    EXPECT_EQ(run({"scan", "none.img", "--fell-short-ok"}).status, 3);
}

TEST_F(NextStep, ProgramsGetProgressAsLinesOfJson) {
    make_card(false);
    const auto ran = run({"scan", "card.img", "--progress", "json", "--format", "json"});
    EXPECT_EQ(parsed(ran.out)["state"], "done");
    std::vector<std::string> stages;
    for (const auto& line : lines_of(ran.err)) stages.push_back(line["stage"]);
    EXPECT_THAT(stages, ::testing::Contains("looking for volumes"));
    EXPECT_THAT(stages, ::testing::Contains("rating"));
    EXPECT_EQ(run({"scan", "card.img", "--progress", "xml"}).status, 2);
}

TEST_F(NextStep, KindsMayBeSaidAtAnyReach) {
    make_card(true);
    for (const auto* reach : {"volumes", "traces"}) {
        const auto shelf = std::string(reach) + ".shelf";
        EXPECT_EQ(run({"scan", "card.img", "--shelf", shelf, "--reach", reach, "--kind", "audio"}).status, 0);
        const auto rows = lines_of(run({"list", shelf, "--format", "jsonl"}).out);
        EXPECT_EQ(rows.size(), 2u) << "nothing is left out";
        for (const auto& row : rows) EXPECT_EQ(row["rated"], "yes");
    }
    run({"scan", "card.img", "--reach", "content", "--kind", "picture"});
    const auto summary = run_json({"summary", "card.shelf"});
    EXPECT_THAT(summary["contents_not_looked_for"], ::testing::Contains("flac"));
    EXPECT_THAT(said_by(summary), HasSubstr("The search for contents left out"));
}

TEST_F(NextStep, WhatIsNotCopiedYetHasNoGradeAndIsNotExported) {
    make_card(false);
    run({"capture", "card.img", "copy.img", "--metadata-only"});
    const auto scanned = run_json({"scan", "copy.img"});
    EXPECT_THAT(first_of(scanned), HasSubstr("undershelf capture SOURCE copy.img"));
    EXPECT_THAT(said_by(scanned), AllOf(Not(HasSubstr("undershelf check")), Not(HasSubstr("formatted"))));
    const auto row = parsed(run({"list", "copy.shelf", "--lost", "--format", "jsonl"}).out);
    EXPECT_EQ(row["rated"], "not_copied");
    EXPECT_TRUE(row["grade"].is_null());
    EXPECT_TRUE(row["chance"].is_null());
    EXPECT_THAT(run({"list", "copy.shelf", "--unrated"}).out, HasSubstr("not copied yet"));
    EXPECT_THAT(run({"tree", "copy.shelf", "--unrated"}).out, HasSubstr("not copied yet"));
    EXPECT_THAT(run({"show", "copy.shelf", dumped(row["id"])}).out, HasSubstr("not copied yet"));
    EXPECT_THAT(run({"list", "copy.shelf", "--grade", "gone", "--grade", "doubtful"}).out,
                Not(HasSubstr("POSTER")));
    const auto refused = run({"export", "copy.shelf", "--to", "out", "--lost"});
    EXPECT_EQ(refused.status, 1);
    EXPECT_THAT(refused.err, HasSubstr("not copied yet"));
    EXPECT_EQ(run_json({"export", "copy.shelf", "--to", "by-number", "--id", dumped(row["id"])})["partial"],
              1);
    EXPECT_EQ(run_json({"export", "copy.shelf", "--to", "all", "--all"})["not_rated"], 0);
}

}  // namespace undershelf::test
