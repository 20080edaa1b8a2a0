// Links: listed with their targets, exported as text files or as links, and never taken for what they lead
// to.

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <filesystem>
#include <nlohmann/json.hpp>
#include <set>
#include <sstream>

#include "ntfs/structures.hpp"
#include "support/fat_image.hpp"
#include "support/ntfs_image.hpp"
#include "support/program_test.hpp"

namespace undershelf::test {

namespace {

namespace fs = std::filesystem;
using ntfs::resident;
using ::testing::AllOf;
using ::testing::HasSubstr;
using ::testing::Not;
using undershelf::ntfs::ATTR_DATA;
using undershelf::ntfs::ATTR_REPARSE;

class Links : public ProgramTest {
  protected:
    void SetUp() override {
        image.record(30, 1, 3, {ntfs::Image::times(), ntfs::Image::name(5, 5, u"Scripts")});
        image.record(31, 1, 3, {ntfs::Image::times(), ntfs::Image::name(5, 5, u"Props")});
        file(32, 30, u"play.txt", "a winter play");
        link(33, 31, u"play", u"../Scripts/play.txt");
        link(34, 31, u"same play", u"play");
        link(35, 31, u"scripts", u"../Scripts");
        link(36, 31, u"outside", u"../../../etc/passwd");
        link(37, 31, u"round", u"about");
        link(38, 31, u"about", u"round");
        link(39, 31, u"lost play", u"..\\Scripts\\PLAY.TXT", 0);
        link(40, 31, u"elsewhere", u"/usr/share/play.txt");
    }
    void file(std::uint64_t n, std::uint64_t parent, const std::u16string& name, const std::string& content) {
        image.record(n, 1, 1,
                     {ntfs::Image::times(), ntfs::Image::name(parent, 1, name),
                      resident(ATTR_DATA, ntfs::as_bytes(content))});
    }
    void link(std::uint64_t n, std::uint64_t parent, const std::u16string& name, const std::u16string& target,
              std::uint16_t flags = 1) {
        image.record(n, flags ? 1 : 2, flags,
                     {ntfs::Image::times(4), ntfs::Image::name(parent, 1, name),
                      resident(ATTR_DATA, ntfs::stored_link_bytes(target))});
    }
    void scan() {
        folder.write("office.img", image.bytes);
        ASSERT_EQ(run({"scan", "office.img"}).status, 0);
    }
    Ran export_all(std::vector<std::string> more = {}) {
        std::vector<std::string> arguments{"export", "office.shelf", "--to", "out", "--all"};
        arguments.insert(arguments.end(), more.begin(), more.end());
        return run(arguments);
    }
    std::string place(const std::string& path) const { return folder.at("out/data/live/" + path); }
    std::string text(const std::string& path) const { return read_file(place(path)); }
    std::string led_to(const std::string& path) const { return fs::read_symlink(place(path)).string(); }
    /// The line of exported.jsonl of the file that is there.
    nlohmann::json line_of(const std::string& place_in_bag) const {
        std::istringstream lines(read_file(folder.at("out/exported.jsonl")));
        nlohmann::json out;
        for (std::string line; std::getline(lines, line);) {
            auto j = parsed(line);
            if (j["path_in_bag"] == place_in_bag) out = std::move(j);
        }
        return out;
    }

    ntfs::Image image;
};

}  // namespace

TEST_F(Links, AreListedWithTheirTargets) {
    scan();
    EXPECT_THAT(run({"tree", "office.shelf"}).out,
                AllOf(HasSubstr("play -> ../Scripts/play.txt"), HasSubstr("lost play -> ..\\Scripts")));
    const auto links = run({"list", "office.shelf", "--kind", "link", "--format", "csv", "--columns",
                            "name,kind,ext,link,size"});
    EXPECT_THAT(links.out, HasSubstr("scripts,link,,../Scripts,10\n"));
    const auto all = run({"list", "office.shelf", "--name", "play.txt", "--format", "jsonl"});
    EXPECT_EQ(parsed(all.out)["link"], nullptr);
    const auto id = run({"list", "office.shelf", "--name", "outside", "--format", "csv", "--columns", "id"});
    const auto shown = run({"show", "office.shelf", id.out.substr(3, id.out.size() - 4)});
    EXPECT_THAT(shown.out, HasSubstr("link to     ../../../etc/passwd"));
    // Nothing in them is checked or searched.
    EXPECT_THAT(run({"check", "office.shelf", "--kind", "link"}).out, HasSubstr("checked 0 files"));
}

TEST_F(Links, AreTextFilesWhereNothingElseIsAskedFor) {
    scan();
    const auto said = export_all();
    EXPECT_THAT(said.out, HasSubstr("Links among them: 8 text files"));
    EXPECT_EQ(text("Props/play"), "../Scripts/play.txt");
    EXPECT_EQ(text("Props/outside"), "../../../etc/passwd");
    EXPECT_EQ(line_of("data/live/Props/play")["link"], "../Scripts/play.txt");
    EXPECT_FALSE(line_of("data/live/Scripts/play.txt").contains("link"));
    EXPECT_EQ(run({"verify", "out"}).status, 0);
}

TEST_F(Links, LeadToWhatIsInTheBagAlone) {
    scan();
    const auto said = export_all({"--links"});
    EXPECT_THAT(said.out, AllOf(HasSubstr("4 made links"), HasSubstr("4 text files")));
    EXPECT_EQ(led_to("Props/play"), "../Scripts/play.txt");
    EXPECT_EQ(led_to("Props/same play"), "play");
    EXPECT_EQ(led_to("Props/scripts"), "../Scripts");
    EXPECT_EQ(fs::read_symlink(folder.at("out/data/deleted/Props/lost play")), "../../live/Scripts/play.txt");
    EXPECT_EQ(text("Props/same play"), "a winter play");
    for (const char* name : {"outside", "round", "about", "elsewhere"})
        EXPECT_TRUE(fs::is_regular_file(fs::symlink_status(place(std::string("Props/") + name)))) << name;
    EXPECT_EQ(line_of("data/live/Props/same play")["leads_to"], "data/live/Props/play");
    EXPECT_EQ(run({"verify", "out"}).status, 0);
    // Any program that checks bags follows them, and finds what the manifest says.
    EXPECT_EQ(run_in(folder.at("out"), {"sha256sum", "--quiet", "-c", "manifest-sha256.txt"}).status, 0);
}

TEST_F(Links, ToWhatIsNotWholeAreNotWholeEither) {
    // A second cluster of the file is after the source's end.
    const auto content = sample_text("a long play", 5000);
    image.fill(600, content.substr(0, ntfs::cluster));
    image.record(60, 1, 1,
                 {ntfs::Image::times(), ntfs::Image::name(31, 1, u"long play"),
                  ntfs::non_resident(ATTR_DATA, {{600, 1}, {9000, 1}}, content.size(), content.size())});
    link(61, 31, u"to it", u"long play");
    scan();
    export_all({"--links"});
    const auto file = line_of("data/live/Props/long play"), led = line_of("data/live/Props/to it");
    ASSERT_EQ(file["outcome"], "partial") << file;
    EXPECT_EQ(led["leads_to"], "data/live/Props/long play");
    for (const char* field : {"outcome", "missing", "written", "size", "sha256"})
        EXPECT_EQ(led[field], file[field]);
    EXPECT_EQ(run({"verify", "out"}).status, 0);
}

TEST_F(Links, ThroughMoreLinksThanASystemFollowsStayTextFiles) {
    for (std::uint64_t i = 0; i < 45; ++i) {
        const auto name = [](std::uint64_t n) {
            return u"cue " +
                   std::u16string{static_cast<char16_t>(u'a' + n / 10), static_cast<char16_t>(u'0' + n % 10)};
        };
        link(80 + i, 31, name(i), i == 0 ? u"../Scripts/play.txt" : name(i - 1));
    }
    scan();
    export_all({"--links"});
    EXPECT_EQ(text("Props/cue d9"), "a winter play");
    EXPECT_TRUE(fs::is_symlink(place("Props/cue d9")));
    EXPECT_FALSE(fs::is_symlink(place("Props/cue e0")));
    EXPECT_EQ(run({"verify", "out"}).status, 0);
}

TEST_F(Links, ThatWereChangedAreFound) {
    scan();
    export_all({"--links"});
    fs::remove(place("Props/scripts"));
    fs::create_symlink("../../../..", place("Props/scripts"));
    fs::remove(place("Props/same play"));
    folder.write("out/data/live/Props/same play", std::string("a winter play"));
    const auto said = run({"verify", "out"});
    EXPECT_EQ(said.status, 1);
    EXPECT_THAT(said.out, AllOf(HasSubstr("Props/scripts is not what was exported: it was a link"),
                                HasSubstr("Props/same play is not what was exported")));
    fs::remove(place("Props/scripts"));
    EXPECT_THAT(run({"verify", "out"}).out, HasSubstr("data/live/Props/scripts is missing"));
}

TEST_F(Links, OfAnInterruptedExportAreMadeAgain) {
    scan();
    export_all({"--links"});
    // As a cut leaves it after some links were made: the journal is there, with their lines as files.
    const auto expected = read_file(folder.at("out/manifest-sha256.txt"));
    std::istringstream lines(read_file(folder.at("out/exported.jsonl")));
    const auto info = read_file(folder.at("out/bag-info.txt"));
    const std::string label = "Undershelf-Round: ";
    const auto at = info.find(label) + label.size();
    const auto round = ordered_parsed(info.substr(at, info.find('\n', at) - at));
    std::string journal = dumped(nlohmann::ordered_json{{"job", dumped(round["job"])}}) + "\n";
    for (std::string line; std::getline(lines, line);) {
        auto j = ordered_parsed(line);
        if (j.contains("leads_to")) {
            j.erase("leads_to");
            j["size"] = j["link"].get<std::string>().size();
            j["sha256"] = std::string(64, '0');
        }
        journal += dumped(j) + "\n";
    }
    for (const char* name :
         {"bagit.txt", "bag-info.txt", "exported.jsonl", "manifest-sha256.txt", "tagmanifest-sha256.txt"})
        fs::remove(folder.at(std::string("out/") + name));
    fs::create_directory(folder.at("out/.unfinished"));
    folder.write("out/.unfinished/journal.jsonl", journal);
    const auto again = export_all({"--links"});
    EXPECT_THAT(again.out, AllOf(HasSubstr("had been exported before"), HasSubstr("4 made links")));
    EXPECT_EQ(led_to("Props/same play"), "play");
    EXPECT_EQ(run({"verify", "out"}).status, 0);
    auto sorted = [](const std::string& text) {
        std::set<std::string> out;
        std::istringstream in(text);
        for (std::string line; std::getline(in, line);) out.insert(line);
        return out;
    };
    EXPECT_EQ(sorted(read_file(folder.at("out/manifest-sha256.txt"))), sorted(expected));
}

TEST_F(Links, TellNothingOfFilesOfTheirExtension) {
    for (std::uint64_t i = 0; i < 16; ++i)
        link(50 + i, 31, u"cue" + std::u16string(1, static_cast<char16_t>(u'a' + i)) + u".mo",
             u"/usr/share/x.mo");
    const auto content = sample_text("a catalogue of cues", 5000);
    image.fill(600, content.substr(0, ntfs::cluster));
    image.fill(601, content.substr(ntfs::cluster));
    image.record(70, 2, 0,
                 {ntfs::Image::times(), ntfs::Image::name(31, 1, u"lost.mo"),
                  ntfs::non_resident(ATTR_DATA, {{600, 2}}, content.size(), content.size())});
    scan();
    const auto lost = run({"list", "office.shelf", "--name", "lost.mo", "--format", "jsonl"});
    const auto entry = parsed(lost.out);
    EXPECT_EQ(entry["grade"], "likely");
    EXPECT_THAT(run({"show", "office.shelf", std::to_string(entry["id"].get<int>())}).out,
                Not(HasSubstr("of its extension")));
}

}  // namespace undershelf::test
