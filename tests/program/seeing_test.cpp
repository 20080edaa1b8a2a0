// Looking at what files are, before they are exported: their text, their members, drawings, a sheet to tick.

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <filesystem>
#include <fstream>
#include <sstream>

#include "support/fat_image.hpp"
#include "support/memory_content.hpp"
#include "support/program_test.hpp"

namespace undershelf::test {

namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;
using ::testing::Not;
using ::testing::StartsWith;

std::string text_of(const ByteVector& bytes) {
    return {bytes.begin(), bytes.end()};
}

/// A page is too long for a message.
bool has(const std::string& page, const std::string& text) {
    return page.find(text) != std::string::npos;
}

class ProgramSeeing : public ProgramTest {
  protected:
    ProgramSeeing() {
        FatImage card({.clusters = 3000, .sectors_per_cluster = 1});
        const auto put = [&](const std::string& name, const std::u16string& long_name,
                             const std::string& content) {
            const auto clusters = static_cast<fat::Cluster>(content.size() / 512 + 1);
            std::vector<fat::Cluster> chain;
            for (fat::Cluster i = 0; i < clusters; ++i) chain.push_back(next_++);
            return card.put(0, name, long_name, chain, content);
        };
        std::string lines;
        for (int i = 1; i <= 80; ++i) lines += "Cue " + std::to_string(i) + ": the owl turns\n";
        put("CUES    TXT", u"Cues.txt", lines);
        put("PROPS   ZIP", u"Props.zip",
            text_of(zip_file({{"lantern.txt", libretto(300)}, {"masks/fox.txt", libretto(90)}})));
        put("LEDGER  DB ", u"Ledger.db", text_of(sqlite_file()));
        put("POSTER  PNG", u"Poster <b>\"owl\" & 'fox'.png", text_of(png_file()));
        ByteVector noise(600, 0xFF);
        for (std::size_t i = 0; i < noise.size(); i += 3) noise[i] = 0;
        put("NOISE   BIN", u"noise.bin", text_of(noise));
        card.erase(put("OLD     GIF", u"Old flyer.gif", text_of(gif_file())));
        folder.write("card.img", card.bytes());
        EXPECT_EQ(run({"scan", "card.img"}).status, 0);
    }
    std::string id(const std::string& name) {
        auto out = run({"list", "card.shelf", "--format", "csv", "--columns", "id", "--name", name}).out;
        out = out.substr(out.find('\n') + 1);
        return out.substr(0, out.find('\n'));
    }
    std::string file(const std::string& name) const {
        std::ifstream in(folder.path() / name, std::ios::binary);
        std::stringstream out;
        out << in.rdbuf();
        return out.str();
    }
    bool there(const std::string& name) const { return std::filesystem::exists(folder.path() / name); }

  private:
    fat::Cluster next_ = 10;
};

}  // namespace

TEST_F(ProgramSeeing, PeekShowsTextMembersAndTables) {
    const auto text = run({"peek", "card.shelf", id("Cues*")});
    EXPECT_THAT(text.out, AllOf(HasSubstr("Cue 60:"), Not(HasSubstr("Cue 61:"))));
    EXPECT_THAT(text.err, HasSubstr("--all-text"));
    EXPECT_THAT(run({"peek", "card.shelf", id("Cues*"), "--all-text"}).out, HasSubstr("Cue 80:"));
    EXPECT_THAT(run({"peek", "card.shelf", "Props.zip"}).out,
                AllOf(HasSubstr("     300 B  lantern.txt"), HasSubstr("masks/fox.txt")));
    EXPECT_THAT(run({"peek", "card.shelf", "Ledger.db"}).out, HasSubstr(" rows  "));
    EXPECT_THAT(run({"peek", "card.shelf", "noise.bin"}).out, HasSubstr("00000000  00 ff ff"));
}

TEST_F(ProgramSeeing, PeekDrawsOneOrAll) {
    const auto one = run({"peek", "card.shelf", id("Old*"), "--draw", "flyer.png"});
    EXPECT_EQ(one.status, 0) << one.err;
    EXPECT_THAT(file("flyer.png"), StartsWith("\x89PNG"));
    EXPECT_EQ(run({"peek", "card.shelf", id("Old*"), "--draw", "flyer.png"}).status, 4);
    EXPECT_EQ(run({"peek", "card.shelf", id("Old*"), "--draw", "card.img"}).status, 4);
    const auto card = run({"peek", "card.shelf", "noise.bin", "--draw", "noise.png"});
    EXPECT_EQ(card.status, 1);
    EXPECT_THAT(card.out, HasSubstr("cannot be drawn"));
    EXPECT_THAT(file("noise.png"), StartsWith("\x89PNG"));
    EXPECT_EQ(run({"peek", "card.shelf", "--kind", "picture", "--draw", "pictures"}).status, 0);
    std::size_t drawings = 0;
    for ([[maybe_unused]] const auto& each : std::filesystem::directory_iterator(folder.path() / "pictures"))
        ++drawings;
    EXPECT_EQ(drawings, 2u);
    EXPECT_EQ(run({"peek", "card.shelf"}).status, 2);
    EXPECT_EQ(run({"peek", "card.shelf", "1", "2"}).status, 2);
    EXPECT_EQ(run({"peek", "card.shelf", id("Old*"), "--draw", "x.png", "--pixels", "9"}).status, 2);
}

TEST_F(ProgramSeeing, ASheetShowsEveryFileAndFetchesNothing) {
    const auto made = run({"sheet", "card.shelf", "--to", "sheet.html"});
    EXPECT_EQ(made.status, 0) << made.err;
    EXPECT_THAT(made.out, HasSubstr("mark card.shelf --ids-from"));
    const auto page = file("sheet.html");
    for (const auto* there : {"default-src 'none'", "data:image/jpeg;base64,", "Cues.txt",
                              "Poster &lt;b&gt;&quot;owl&quot; &amp; &#39;fox&#39;.png"})
        EXPECT_TRUE(has(page, there)) << there;
    for (const auto* missing : {"http:", "https:", "<b>\"owl"}) EXPECT_FALSE(has(page, missing)) << missing;
    for (const auto* name : {"Cues*", "Props*", "Ledger*", "Poster*", "noise*", "Old*"})
        EXPECT_TRUE(has(page, "data-id=\"" + id(name) + "\"")) << name;
    EXPECT_EQ(run({"sheet", "card.shelf", "--to", "sheet.html"}).status, 4);
    EXPECT_EQ(run({"sheet", "card.shelf", "--to", "sheet.txt"}).status, 2);
    EXPECT_EQ(run({"sheet", "card.shelf", "--to", "lost.html", "--lost", "--group", "grade"}).status, 0);
    const auto lost = file("lost.html");
    EXPECT_TRUE(has(lost, "Old flyer.gif"));
    EXPECT_FALSE(has(lost, "Cues.txt"));
    EXPECT_EQ(run({"sheet", "card.shelf", "--to", "none.html", "--name", "nothing*"}).status, 1);
    EXPECT_TRUE(has(file("none.html"), "No file fits"));
}

TEST_F(ProgramSeeing, TicksOfAnotherShelfAreRefused) {
    EXPECT_EQ(run({"sheet", "card.shelf", "--to", "sheet.html"}).status, 0);
    const auto page = file("sheet.html");
    const std::string mark = "data-heading=\"";
    const auto from = page.find(mark) + mark.size();
    const auto heading = page.substr(from, page.find('"', from) - from);
    folder.write("ticks.txt", ByteVector(heading.begin(), heading.end()));
    std::ofstream(folder.path() / "ticks.txt", std::ios::app) << "\n# ticked\n" << id("Old*") << "\n";
    EXPECT_EQ(run({"mark", "card.shelf", "--ids-from", "ticks.txt"}).status, 0);
    EXPECT_THAT(run({"list", "card.shelf", "--marked"}).out,
                AllOf(HasSubstr("Old flyer.gif"), Not(HasSubstr("Cues.txt"))));
    std::ofstream(folder.path() / "others.txt") << "# undershelf shelf 0123456789abcdef\n1\n";
    EXPECT_EQ(run({"mark", "card.shelf", "--ids-from", "others.txt"}).status, 4);
}

TEST_F(ProgramSeeing, ASheetIsDrawnAsPagesAsWell) {
    EXPECT_EQ(run({"sheet", "card.shelf", "--to", "sheet.pdf"}).status, 0);
    EXPECT_THAT(file("sheet.pdf"), StartsWith("%PDF-"));
    EXPECT_EQ(run({"sheet", "card.shelf", "--to", "sheet.png"}).status, 0);
    EXPECT_THAT(file("sheet.png"), StartsWith("\x89PNG"));
}

TEST_F(ProgramSeeing, NothingHalfIsLeftWhereThereIsNoRoom) {
    const auto ran = run_in(folder.path().string(), {"sh", "-c",
                                                     "trap '' XFSZ; ulimit -f 8; exec " UNDERSHELF_PROGRAM
                                                     " sheet card.shelf --to sheet.html"});
    EXPECT_EQ(ran.status, 3) << ran.err;
    for (const auto& each : std::filesystem::directory_iterator(folder.path()))
        EXPECT_FALSE(each.path().filename().string().starts_with("sheet")) << each.path();
}

}  // namespace undershelf::test
