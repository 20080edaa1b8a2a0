// Contents read to their end: `check`, and what lists, ratings and scans make of it.

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <map>
#include <nlohmann/json.hpp>
#include <sstream>

#include "support/fat_image.hpp"
#include "support/memory_content.hpp"
#include "support/program_test.hpp"

namespace undershelf::test {

namespace {

using nlohmann::json;
using ::testing::AllOf;
using ::testing::HasSubstr;
using ::testing::Not;

class Checking : public ProgramTest {
  protected:
    std::map<std::string, json> rows(std::vector<std::string> more = {}) {
        more.insert(more.begin(), {"list", "card.shelf", "--format", "jsonl"});
        std::map<std::string, json> out;
        for (auto& row : lines_of(run(more).out)) out[row["name"]] = row;
        return out;
    }
    static std::string text_of(const ByteVector& bytes) { return {bytes.begin(), bytes.end()}; }

    /// Deleted files: a sound picture, a sound archive whose second half another live file has, one with a
    /// wrong byte, a tune, whose format nobody reads; and a live archive that is broken.
    void make_card() {
        FatImage card({.clusters = 3000});
        const auto picture = text_of(png_file());
        const auto archive =
            text_of(zip_file({{"act 1.txt", libretto(6000)}, {"act 2.txt", libretto(6000)}}));
        auto wrong = archive;
        wrong[wrong.size() / 2] ^= 1;
        fat::Cluster at = 100;
        const auto put = [&](const std::string& name, const std::string& content) {
            std::vector<fat::Cluster> clusters;
            for (std::size_t n = 0; n < content.size(); n += 512) clusters.push_back(at++);
            return card.put(0, name, u"", clusters, content);
        };
        card.erase(put("POSTER  PNG", picture));
        card.erase(put("SCRIPT  ZIP", archive));
        card.erase(put("LEDGER  ZIP", wrong));
        card.erase(put("TUNE    MID", "MThd" + text_of(libretto(3000))));
        put("LIVE    ZIP", wrong);
        folder.write("card.img", card.bytes());
        run({"scan", "card.img"});
    }
};

}  // namespace

TEST_F(Checking, VerifiesWhatHoldsAndSaysWhereTheRestDoesNot) {
    make_card();
    const auto ran = run({"check", "card.shelf"});
    EXPECT_EQ(ran.status, 0) << ran.err;
    EXPECT_THAT(ran.out, AllOf(HasSubstr("checked 3 files"), HasSubstr("2 verified, 1 broken"),
                               HasSubstr("1 file is of formats that are not checked")));
    const auto all = rows();
    const auto& poster = all.at("_OSTER.PNG");
    EXPECT_EQ(poster["grade"], "verified");
    EXPECT_EQ(poster["format"], "png");
    EXPECT_EQ(poster["checked"], "strong");
    EXPECT_EQ(poster["complete"], true);
    EXPECT_EQ(poster["holds_to"], poster["size"]);
    EXPECT_GT(poster["chance"], 0.99);
    const auto& ledger = all.at("_EDGER.ZIP");
    EXPECT_EQ(ledger["grade"], "doubtful");
    EXPECT_EQ(ledger["complete"], false);
    EXPECT_LT(ledger["holds_to"], ledger["size"]);
    EXPECT_LT(ledger["chance"], 0.05);
    EXPECT_EQ(all.at("_UNE.MID")["checked"], nullptr);
    EXPECT_EQ(all.at("LIVE.ZIP")["checked"], nullptr) << "live files are checked when asked for alone";
    EXPECT_THAT(run({"show", "card.shelf", dumped(ledger["id"])}).out,
                AllOf(HasSubstr("it holds up to byte"), HasSubstr("the data of its member act")));
    EXPECT_THAT(run({"show", "card.shelf", dumped(poster["id"])}).out, HasSubstr("a strong check"));
    EXPECT_EQ(rows({"--content", "png"}).size(), 1u);
    EXPECT_EQ(rows({"--checked", "strong", "--grade", "verified"}).size(), 2u);
    EXPECT_EQ(run({"list", "card.shelf", "--content", "cassette"}).status, 2);
    // Nothing is left to do, until somebody asks for it.
    EXPECT_THAT(run({"check", "card.shelf"}).out,
                AllOf(HasSubstr("checked 0 files"), HasSubstr("3 files were checked before")));
    EXPECT_THAT(run({"check", "card.shelf", "--again"}).out, HasSubstr("checked 3 files"));
}

TEST_F(Checking, SaysHowFarABrokenFileHolds) {
    make_card();
    EXPECT_THAT(run({"summary", "card.shelf"}).out, HasSubstr("3 lost files can be read to their end"));
    run({"check", "card.shelf"});
    run({"check", "card.shelf", "--origin", "live"});
    const auto broken = rows({"--broken"});
    EXPECT_EQ(broken.size(), 2u);
    const auto ledger = broken.at("_EDGER.ZIP");
    for (const auto* command : {"show", "peek"})
        EXPECT_THAT(run({command, "card.shelf", dumped(ledger["id"])}).out,
                    AllOf(HasSubstr("ZIP archive: holds up to byte"), HasSubstr("by a strong check")));
    const auto said = run({"summary", "card.shelf"}).out;
    EXPECT_THAT(said, HasSubstr("1 live file does not hold to its end"));
    EXPECT_THAT(said, Not(HasSubstr("can be read to"))) << "the tune is of no format that is checked";
    run({"export", "card.shelf", "--to", "out", "--broken"});
    std::istringstream lines(read_file(folder.at("out/exported.jsonl")));
    std::size_t exported = 0;
    for (std::string line; std::getline(lines, line); ++exported) {
        const auto entry = parsed(line);
        EXPECT_EQ(entry["holds_to"], ledger["holds_to"]) << "both are the same archive";
    }
    EXPECT_EQ(exported, 2u);
}

TEST_F(Checking, AKindIsWhatTheContentShows) {
    FatImage card({.clusters = 3000});
    const auto put = [&](const std::string& name, fat::Cluster at, const ByteVector& bytes) {
        std::vector<fat::Cluster> clusters;
        for (std::size_t n = 0; n < bytes.size(); n += 512) clusters.push_back(at++);
        card.erase(card.put(0, name, u"", clusters, text_of(bytes)));
    };
    put("POSTER  DAT", 100, png_file());
    put("COSTUME TIF", 300, tiff_file());
    put("CURTAIN MOV", 500, mov_file());
    folder.write("card.img", card.bytes());
    run({"scan", "card.img"});
    EXPECT_EQ(rows().at("_OSTER.DAT")["kind"], "other");
    // Two of them are decoded in a process of its own.
    EXPECT_THAT(run({"check", "card.shelf"}).out, HasSubstr("checked 3 files"));
    const auto all = rows({"--grade", "verified"});
    EXPECT_EQ(all.at("_OSTER.DAT")["kind"], "picture");
    EXPECT_EQ(all.at("_OSTUME.TIF")["format"], "tiff");
    EXPECT_EQ(all.at("_URTAIN.MOV")["format"], "mov");
    EXPECT_EQ(rows({"--kind", "picture"}).size(), 2u);
}

TEST_F(Checking, TextsAndMailAreCheckedAsWell) {
    FatImage card({.clusters = 3000});
    fat::Cluster at = 100;
    const auto put = [&](const std::string& name, const std::string& content) {
        std::vector<fat::Cluster> clusters;
        for (std::size_t n = 0; n < content.size(); n += 512) clusters.push_back(at++);
        card.erase(card.put(0, name, u"", clusters, content));
    };
    put("LETTER  TXT", text_of(libretto(3000)));
    put("PROPS   SQL", "CREATE TABLE props (name TEXT);\n");
    put("CUES    DAT", text_of(xml_file()));
    put("LETTER  EML", text_of(eml_file()));
    folder.write("card.img", card.bytes());
    run({"scan", "card.img"});
    EXPECT_THAT(run({"check", "card.shelf"}).out, HasSubstr("checked 4 files"));
    const auto all = rows();
    EXPECT_EQ(all.at("_ETTER.TXT")["format"], "text");
    EXPECT_EQ(all.at("_ETTER.TXT")["checked"], "weak");
    EXPECT_EQ(all.at("_ROPS.SQL")["kind"], "database") << "its name tells more than its content";
    EXPECT_EQ(all.at("_UES.DAT")["kind"], "text");
    EXPECT_EQ(all.at("_ETTER.EML")["format"], "eml");
    EXPECT_THAT(run({"show", "card.shelf", dumped(all.at("_ETTER.EML")["id"])}).out,
                HasSubstr("Cues for the third act"));
}

TEST_F(Checking, WhatACustomerRemembersIsFoundInTexts) {
    FatImage card({.clusters = 3000});
    fat::Cluster at = 100;
    const auto put = [&](const std::string& name, const std::string& content) {
        std::vector<fat::Cluster> clusters;
        for (std::size_t n = 0; n < content.size(); n += 512) clusters.push_back(at++);
        return card.put(0, name, u"", clusters, content);
    };
    card.erase(put("LETTER  TXT", "Dear Se\xc3\xb1or Pinwheel,\nthe lantern is mended.\n"));
    card.erase(put("SCRIPT  DOC", text_of(zip_file({{"word/document.xml", libretto(60)}}))));
    card.erase(put("POSTER  PNG", text_of(png_file())));
    put("LIVE    TXT", "The lantern again.\n");
    folder.write("card.img", card.bytes());
    run({"scan", "card.img"});
    const auto before = run({"list", "card.shelf", "--containing", "lantern"});
    EXPECT_THAT(before.err,
                AllOf(HasSubstr("3 lost files were not looked into"), HasSubstr("undershelf check")));
    run({"check", "card.shelf"});
    const auto found = rows({"--containing", "SENOR lantern"});
    EXPECT_EQ(found.size(), 1u);
    EXPECT_TRUE(found.contains("_ETTER.TXT"));
    EXPECT_EQ(rows({"--containing", "lantern", "--ext", "png"}).size(), 0u);
    run({"check", "card.shelf", "--origin", "live"});
    EXPECT_EQ(rows({"--containing", "lantern"}).size(), 2u);
    EXPECT_EQ(run({"list", "card.shelf", "--containing", " "}).status, 2);
    std::filesystem::rename(folder.at("card.img"), folder.at("moved.img"));
    EXPECT_EQ(run({"list", "card.shelf", "--containing", "lantern"}).status, 3);
    EXPECT_THAT(run({"list", "card.shelf", "--containing", "lantern", "--source", "moved.img"}).out,
                HasSubstr("_ETTER.TXT"));
}

TEST_F(Checking, GoesOnWhereItWasNarrowedBefore) {
    make_card();
    EXPECT_THAT(run({"check", "card.shelf", "--ext", "png"}).out, HasSubstr("checked 1 file"));
    EXPECT_THAT(run({"check", "card.shelf"}).out,
                AllOf(HasSubstr("checked 2 files"), HasSubstr("1 file was checked before")));
}

TEST_F(Checking, ALiveFilesGradeDoesNotFallByIt) {
    make_card();
    const auto before = rows().at("LIVE.ZIP");
    const auto ran = run({"check", "card.shelf", "--origin", "live"});
    EXPECT_THAT(ran.out, HasSubstr("checked 1 file"));
    const auto after = rows().at("LIVE.ZIP");
    EXPECT_EQ(after["complete"], false);
    EXPECT_EQ(after["grade"], before["grade"]);
    EXPECT_EQ(after["chance"], before["chance"]);
}

TEST_F(Checking, WhatWasVerifiedOwnsItsBytes) {
    // Two deleted files whose guessed layouts meet in cluster 103: the first one's content proves that it was
    // its.
    FatImage card({.clusters = 3000});
    const auto archive = text_of(zip_file({{"act 1.txt", libretto(6000), false}}));
    std::vector<fat::Cluster> clusters;
    for (fat::Cluster c = 100; clusters.size() * 512 < archive.size(); ++c) clusters.push_back(c);
    card.erase(card.put(0, "SCRIPT  ZIP", u"", clusters, archive));
    card.add(0, {.short_name = "LATER   DAT", .start = 104, .size = 2000, .date = 0x5A65, .erased = true});
    folder.write("card.img", card.bytes());
    run({"scan", "card.img"});
    EXPECT_NE(rows().at("_CRIPT.ZIP")["grade"], "verified");
    run({"check", "card.shelf"});
    const auto all = rows();
    EXPECT_EQ(all.at("_CRIPT.ZIP")["grade"], "verified");
    EXPECT_EQ(all.at("_ATER.DAT")["chance"], 0);
}

TEST_F(Checking, AScanThatGoesAsFarDoesItForAllLostFiles) {
    make_card();
    const auto ran = run({"scan", "card.img", "--reach", "content"});
    EXPECT_EQ(ran.status, 0) << ran.err;
    EXPECT_EQ(rows({"--grade", "verified"}).size(), 2u);
    EXPECT_THAT(run({"scan", "card.img", "--reach", "traces"}).out, HasSubstr("already contains this scan"));
}

TEST_F(Checking, WhatIsNotCopiedYetIsCheckedLater) {
    make_card();
    run({"capture", "card.img", "copy.img", "--metadata-only"});
    run({"scan", "copy.img", "--shelf", "copy.shelf"});
    EXPECT_THAT(run({"check", "copy.shelf"}).out,
                AllOf(HasSubstr("checked 0 files"), HasSubstr("not copied into the image")));
    run({"capture", "card.img", "copy.img"});
    run({"scan", "copy.img", "--shelf", "copy.shelf"});
    EXPECT_THAT(run({"check", "copy.shelf"}).out, HasSubstr("checked 3 files"));
}

TEST_F(Checking, SaysWhatIsMissing) {
    EXPECT_EQ(run({"check", "nothing.shelf"}).status, 3);
    make_card();
    std::filesystem::rename(folder.at("card.img"), folder.at("moved.img"));
    EXPECT_EQ(run({"check", "card.shelf"}).status, 3);
    EXPECT_EQ(run({"check", "card.shelf", "--source", "moved.img"}).status, 0);
}

}  // namespace undershelf::test
