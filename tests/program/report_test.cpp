// Reports: before an export, after it, of what others have done to a bag, and of nothing.

#include "report/report.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <filesystem>
#include <fstream>
#include <sstream>

#include "support/program_test.hpp"
#include "support/small_card.hpp"

namespace undershelf::test {

namespace {

using ::testing::HasSubstr;

class ProgramReport : public ProgramTest {
  protected:
    ProgramReport() {
        folder.write("card.img", small_card().bytes());
        EXPECT_EQ(run({"scan", "card.img"}).status, 0);
    }
    std::string file(const std::string& name) const {
        std::ifstream in(folder.path() / name, std::ios::binary);
        std::stringstream out;
        out << in.rdbuf();
        return out.str();
    }
    /// The page's part for the customer.
    std::string first_page(const std::string& name) const {
        const auto page = file(name + "/report.html");
        return page.substr(0, page.find("class=\"colleague\""));
    }
    void write(const std::string& name, const std::string& text) {
        std::ofstream(folder.path() / name, std::ios::binary) << text;
    }
};

bool says(const std::string& page, const std::string& text) {
    return page.find(text) != std::string::npos;
}

}  // namespace

TEST_F(ProgramReport, IsAStatementBeforeAnythingIsExported) {
    write("wanted.txt", "*.txt\r\nthe lost violin\r\n");
    const auto ran = run({"report", "card.shelf", "--to", "quote", "--wanted", "wanted.txt", "--title",
                          "For <Odile> & \"Tilda\"", "--case", "2025-118", "--by", "Workshop Seven"});
    EXPECT_EQ(ran.status, 0) << ran.err;
    const auto page = first_page("quote");
    for (const auto* there :
         {"For &lt;Odile&gt; &amp; &quot;Tilda&quot;", "2025-118", "Workshop Seven", "What happened to it",
          "the lost violin", "not found", "Say which of these files you want"})
        EXPECT_TRUE(says(page, there)) << there;
    // None of our words, and no place of this machine.
    for (const auto* ours : {"shelf", "sweep", "trace", "claim", "entry", "/tmp", "http:", "<script"})
        EXPECT_FALSE(says(page.substr(page.find("<body")), ours)) << ours;
    for (const auto* made : {"map.svg", "map.png", "kinds.svg", "sizes.svg", "dates.svg", "chances.png",
                             "files.csv", "report.json"})
        EXPECT_FALSE(file(std::string("quote/") + made).empty()) << made;
    const auto told = parsed(file("quote/report.json"));
    EXPECT_EQ(told["case"], "2025-118");
    EXPECT_EQ(told["wanted"].size(), 2u);
    EXPECT_EQ(told["wanted"][1]["files"], 0);
    EXPECT_EQ(told["summary"]["commands"].size(), 1u);
    EXPECT_EQ(run({"report", "card.shelf", "--to", "quote"}).status, 4);
}

TEST_F(ProgramReport, SaysWhatWasHandedOver) {
    ASSERT_LE(run({"export", "card.shelf", "--to", "bag", "--all"}).status, 1);
    const auto ran = run({"report", "card.shelf", "--to", "report", "--export", "bag"});
    EXPECT_EQ(ran.status, 0) << ran.err;
    EXPECT_TRUE(says(first_page("report"), "Every one was read again after it was saved"));
    const auto told = parsed(file("report/report.json"));
    EXPECT_TRUE(told["bags"][0]["verified"]);
    EXPECT_GT(told["bags"][0]["complete"], 0);
}

TEST_F(ProgramReport, SaysThatABagDoesNotVerify) {
    ASSERT_LE(run({"export", "card.shelf", "--to", "bag", "--all"}).status, 1);
    for (const auto& each : std::filesystem::recursive_directory_iterator(folder.path() / "bag/data")) {
        if (each.is_regular_file() && each.file_size() > 0) {
            std::ofstream(each.path(), std::ios::app) << "x";
            break;
        }
    }
    const auto ran = run({"report", "card.shelf", "--to", "report", "--export", "bag"});
    EXPECT_EQ(ran.status, 1);
    EXPECT_THAT(ran.err, HasSubstr("undershelf verify bag"));
    EXPECT_TRUE(says(first_page("report"), "not as they were saved"));
}

TEST_F(ProgramReport, RefusesABagOfAnotherShelf) {
    ASSERT_LE(run({"export", "card.shelf", "--to", "bag", "--all"}).status, 1);
    auto other = small_card().bytes();
    other[other.size() - 1] ^= 1;
    folder.write("other.img", other);
    ASSERT_EQ(run({"scan", "other.img"}).status, 0);
    EXPECT_EQ(run({"report", "other.shelf", "--to", "report", "--export", "bag"}).status, 4);
    EXPECT_FALSE(std::filesystem::exists(folder.path() / "report/report.html"));
    EXPECT_EQ(run({"report", "card.shelf", "--to", "report", "--export", "nothing"}).status, 3);
}

TEST_F(ProgramReport, OfNothingIsAReportAsWell) {
    const auto ran = run({"report", "card.shelf", "--to", "report", "--name", "nothing*"});
    EXPECT_EQ(ran.status, 0) << ran.err;
    EXPECT_TRUE(says(first_page("report"), "Nothing that was looked for is there"));
    EXPECT_EQ(run({"report", "card.shelf"}).status, 2);
    EXPECT_EQ(run({"report", "card.shelf", "--to", "other", "--wanted", "missing.txt"}).status, 2);
    EXPECT_EQ(run({"report", "card.shelf", "--to", "figures", "--figures-only"}).status, 0);
    EXPECT_FALSE(std::filesystem::exists(folder.path() / "figures/report.html"));
    EXPECT_TRUE(std::filesystem::exists(folder.path() / "figures/map.svg"));
}

TEST_F(ProgramReport, GoesWithoutPreviewsWhereTheSourceIsGone) {
    std::filesystem::remove(folder.path() / "card.img");
    const auto ran = run({"report", "card.shelf", "--to", "report"});
    EXPECT_EQ(ran.status, 0) << ran.err;
    EXPECT_THAT(ran.err, HasSubstr("no previews"));
}

TEST_F(ProgramReport, SaysTheSameTwiceButForTheDate) {
    ASSERT_EQ(run({"report", "card.shelf", "--to", "one"}).status, 0);
    ASSERT_EQ(run({"report", "card.shelf", "--to", "two"}).status, 0);
    for (const auto* name : {"map.svg", "kinds.png", "files.csv"})
        EXPECT_EQ(file(std::string("one/") + name), file(std::string("two/") + name)) << name;
    auto one = parsed(file("one/report.json")), two = parsed(file("two/report.json"));
    one.erase("made");
    two.erase("made");
    EXPECT_EQ(one, two);
}

TEST_F(ProgramReport, LeavesNothingOfAReportThatFails) {
    // What cannot be taken away is where the list is to be written.
    std::filesystem::create_directories(folder.path() / "report/files.csv.undershelf-new/things");
    const auto ran = run({"report", "card.shelf", "--to", "report"});
    EXPECT_EQ(ran.status, 3) << ran.out << ran.err;
    EXPECT_FALSE(std::filesystem::exists(folder.path() / "report/map.svg"));
    std::filesystem::remove_all(folder.path() / "report/files.csv.undershelf-new");
    EXPECT_EQ(run({"report", "card.shelf", "--to", "report"}).status, 0);
}

TEST_F(ProgramReport, IsNotWrittenWhereSomebodyDoesNotWait) {
    struct Impatient : Progress {
        std::string until;
        bool had_enough = false;
        void stage(std::string_view what) override { had_enough |= what == until; }
        bool stopped() const override { return had_enough; }
    };
    const Shelf shelf((folder.path() / "card.shelf").string());
    for (const auto* stage : {"counting", "drawing"}) {
        Impatient progress;
        progress.until = stage;
        ReportOptions options;
        options.to = (folder.path() / stage).string();
        const auto result = write_report(shelf, nullptr, options, progress);
        EXPECT_TRUE(result.interrupted) << stage;
        EXPECT_TRUE(result.files.empty()) << stage;
        EXPECT_FALSE(std::filesystem::exists(folder.path() / stage / "map.svg")) << stage;
    }
}

}  // namespace undershelf::test
