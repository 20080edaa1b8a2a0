// Images of which only a part was copied yet: scanned, selected from, captured on, scanned again.

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <map>
#include <nlohmann/json.hpp>
#include <sstream>

#include "support/fat_image.hpp"
#include "support/program_test.hpp"
#include "support/shelf_rows.hpp"

namespace undershelf::test {

namespace {

using nlohmann::json;
using ::testing::AllOf;
using ::testing::ElementsAre;
using ::testing::HasSubstr;
using ::testing::IsEmpty;
using ::testing::Not;

class PartialImage : public ProgramTest {
  protected:
    std::vector<json> rows(const std::string& shelf, std::vector<std::string> more = {}) {
        more.insert(more.begin(), {"list", shelf, "--format", "jsonl"});
        return lines_of(run(more).out);
    }
    std::vector<std::string> names(const std::string& shelf, std::vector<std::string> more = {}) {
        std::vector<std::string> out;
        for (const auto& row : rows(shelf, std::move(more))) out.push_back(row["path"]);
        std::sort(out.begin(), out.end());
        return out;
    }
    /// What a listing says of each entry but its number.
    std::vector<std::string> without_ids(const std::string& shelf) {
        std::vector<std::string> out;
        for (auto row : rows(shelf)) {
            row.erase("id");
            row.erase("marked");
            out.push_back(dumped(row));
        }
        std::sort(out.begin(), out.end());
        return out;
    }
    /// Bytes that the drive was asked for.
    std::uint64_t bytes_read(const std::string& list) {
        std::istringstream lines(read_file(folder.at(list)));
        std::uint64_t out = 0;
        std::string line;
        std::getline(lines, line);
        while (std::getline(lines, line)) out += std::stoull(line.substr(line.rfind(',') + 1));
        return out;
    }
    /// A card of 20 MB with a folder of scripts, live and deleted ones.
    void make_card() {
        FatImage card({.clusters = 5000, .sectors_per_cluster = 8});
        card.make_folder(10, 0);
        card.add(0, {.short_name = "SCRIPTS    ", .start = 10, .attr = 0x10});
        card.chain({10});
        fat::Cluster c = 100;
        for (int act = 1; act <= 9; ++act) {
            const auto slot = card.put(10, "ACT" + std::to_string(act) + "    TXT", u"", {c, c + 1},
                                       sample_text("act " + std::to_string(act), 7000));
            if (act % 3 == 0) card.erase(slot);
            c += 400;
        }
        folder.write("card.img", card.bytes());
    }
    void unpack_demo(const std::string& name, const std::string& to) {
        const auto made = run_in(folder.path().string(),
                                 {"sh", "-c", "gzip -dc '" UNDERSHELF_DEMO_DIR "/" + name + "' > " + to});
        ASSERT_EQ(made.status, 0) << made.err;
    }
};

}  // namespace

TEST_F(PartialImage, HasAllNamesAfterTheMetadata) {
    make_card();
    run({"scan", "card.img", "--shelf", "whole.shelf"});
    const auto ran = run({"capture", "card.img", "copy.img", "--metadata-only", "--reads", "reads.csv"});
    EXPECT_EQ(ran.status, 0) << ran.err;
    EXPECT_THAT(ran.out, HasSubstr("the file system's tables are complete"));
    EXPECT_LE(bytes_read("reads.csv"), std::filesystem::file_size(folder.at("card.img")) * 3 / 100);
    const auto scanned = run({"scan", "copy.img", "--shelf", "copy.shelf"});
    EXPECT_EQ(scanned.status, 1);
    EXPECT_THAT(scanned.err,
                AllOf(HasSubstr("not copied yet"), HasSubstr("not lost"), Not(HasSubstr("cannot be read"))));
    EXPECT_EQ(names("copy.shelf"), names("whole.shelf"));
    // Nothing is known to be lost, and nothing can be promised.
    for (const auto& row : rows("copy.shelf", {"--name", "*CT*"})) {
        EXPECT_EQ(row["rated"], "not_copied") << row["name"];
        EXPECT_TRUE(row["grade"].is_null()) << row["name"];
        EXPECT_TRUE(row["chance"].is_null()) << row["name"];
        EXPECT_GT(row["left"], 0.5) << row["name"];
    }
    const auto id = dumped(rows("copy.shelf", {"--name", "ACT1.TXT"}).front()["id"]);
    EXPECT_THAT(run({"show", "copy.shelf", id}).out, HasSubstr("are not copied yet and not lost"));
    const auto inspected = run({"inspect", "copy.img"});
    EXPECT_THAT(inspected.out,
                AllOf(HasSubstr("not copied into this image yet"), HasSubstr("Go on with it")));
    EXPECT_GT(parsed(run({"inspect", "copy.img", "--format", "json"}).out)["not_copied"], 10'000'000);
    const auto summary = parsed(run({"summary", "copy.shelf", "--format", "json"}).out);
    EXPECT_EQ(summary["unreadable"]["bytes"], 0);
    EXPECT_GT(summary["not_copied"]["bytes"], 10'000'000);
}

TEST_F(PartialImage, WantedFilesComeFirstAndTheShelfKeepsItsNumbers) {
    make_card();
    run({"capture", "card.img", "copy.img", "--metadata-only"});
    run({"scan", "copy.img", "--shelf", "card.shelf"});
    run({"mark", "card.shelf", "--name", "ACT2*"});
    EXPECT_EQ(names("card.shelf", {"--unread"}).size(), 9u);
    std::map<std::string, json> ids;
    for (const auto& row : rows("card.shelf")) ids[row["path"]] = row["id"];

    const auto wanted = run({"capture", "card.img", "copy.img", "--from", "card.shelf", "--name", "ACT2*",
                             "--name", "ACT4*", "--reads", "reads.csv"});
    EXPECT_EQ(wanted.status, 0) << wanted.err;
    EXPECT_THAT(wanted.out, HasSubstr("2 files in card.shelf: 2 complete"));
    EXPECT_LE(bytes_read("reads.csv"), 2 * 7168 + 48 * 4096u);
    const auto again = run({"scan", "copy.img", "--shelf", "card.shelf"});
    EXPECT_THAT(again.out, HasSubstr("could be read that could not be before"));
    EXPECT_EQ(names("card.shelf", {"--unread"}).size(), 7u);
    EXPECT_THAT(names("card.shelf", {"--marked"}), ElementsAre("SCRIPTS/ACT2.TXT"));
    run({"export", "card.shelf", "--to", "out", "--marked"});
    EXPECT_TRUE(read_file(folder.at("out/data/live/SCRIPTS/ACT2.TXT")) == sample_text("act 2", 7000));

    EXPECT_THAT(run({"capture", "card.img", "copy.img", "--shelf", "card.shelf"}).out, HasSubstr("9 complete"));
    EXPECT_EQ(run({"scan", "copy.img", "--shelf", "card.shelf"}).status, 0);
    EXPECT_THAT(names("card.shelf", {"--unread"}), IsEmpty());
    for (const auto& row : rows("card.shelf")) EXPECT_EQ(ids[row["path"]], row["id"]) << row["path"];
    run({"scan", "card.img", "--shelf", "whole.shelf"});
    EXPECT_EQ(without_ids("card.shelf"), without_ids("whole.shelf"));
    EXPECT_THAT(run({"scan", "copy.img", "--shelf", "card.shelf"}).out, HasSubstr("Nothing to do"));
}

TEST_F(PartialImage, AnotherSourcesShelfIsRefused) {
    make_card();
    run({"scan", "card.img", "--shelf", "card.shelf"});
    auto other = read_file(folder.at("card.img"));
    other[100] = 'x';
    folder.write("other.img", other);
    const auto ran = run({"capture", "other.img", "copy.img", "--from", "card.shelf"});
    EXPECT_EQ(ran.status, 3);
    EXPECT_THAT(ran.err, HasSubstr("is not a shelf of"));
}

TEST_F(PartialImage, OnlyWhatCameSinceIsSwept) {
    unpack_demo("theatre-photos.img.gz", "card.img");
    const auto size = std::filesystem::file_size(folder.at("card.img"));
    run({"scan", "card.img", "--shelf", "whole.shelf", "--reach", "traces"});
    // First the front, then the back, then what is between: with cuts in the middle of clusters.
    const auto third = std::to_string(size / 3 / 4096 * 4096 + 1024);
    run({"capture", "card.img", "copy.img", "--range", "0," + third});
    run({"scan", "copy.img", "--shelf", "card.shelf", "--reach", "traces"});
    run({"capture", "card.img", "copy.img", "--range", std::to_string(2 * size / 3) + "," + third});
    run({"scan", "copy.img", "--shelf", "card.shelf", "--reach", "traces"});
    std::map<std::string, json> ids;
    for (const auto& row : rows("card.shelf"))
        ids[row["path"].get<std::string>() + dumped(row["origin"])] = row["id"];
    EXPECT_EQ(run({"capture", "card.img", "copy.img"}).status, 0);
    // Asked for less, it still sweeps what was swept before.
    const auto again = run({"scan", "copy.img", "--shelf", "card.shelf"});
    EXPECT_NE(again.status, 3) << again.err;
    EXPECT_EQ(without_ids("card.shelf"), without_ids("whole.shelf"));
    std::size_t kept = 0;
    for (const auto& row : rows("card.shelf")) {
        const auto it = ids.find(row["path"].get<std::string>() + dumped(row["origin"]));
        if (it == ids.end()) continue;
        EXPECT_EQ(it->second, row["id"]) << row["path"];
        ++kept;
    }
    EXPECT_GT(kept, 3u);
    // The traces themselves are those of one sweep over all of it.
    const auto traces = [&](const std::string& shelf) {
        auto all = shelf_rows(folder.at(shelf));
        std::erase_if(all, [](const std::string& row) { return !row.starts_with("traces|"); });
        return all;
    };
    EXPECT_EQ(traces("card.shelf"), traces("whole.shelf"));
}

TEST_F(PartialImage, ACopyOfACopyHasNoMoreThanTheFirst) {
    make_card();
    run({"capture", "card.img", "copy.img", "--metadata-only"});
    const auto ran = run({"capture", "copy.img", "second.img"});
    EXPECT_EQ(ran.status, 1);
    EXPECT_THAT(run({"scan", "second.img", "--shelf", "second.shelf"}).err, HasSubstr("could not be read"));
    EXPECT_EQ(names("second.shelf", {"--unread"}).size(), 9u);
}

TEST_F(PartialImage, AScanOfTheDriveGoesOnWithItsImage) {
    make_card();
    folder.write("bad.csv", std::string("offset,length\n2000000,200000\n"));
    run({"scan", "card.img", "--shelf", "card.shelf"});
    run({"capture", "card.img", "copy.img", "--simulate", "bad.csv"});
    const auto ran = run({"export", "card.shelf", "--source", "copy.img", "--to", "out", "--all"});
    EXPECT_EQ(ran.status, 1);
    EXPECT_THAT(ran.out, HasSubstr("1 partial"));
}

}  // namespace undershelf::test
