// All that exports and captures write is what they wrote before, but for dates and names of machines.

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <sys/stat.h>

#include <algorithm>
#include <cstdlib>
#include <filesystem>
#include <regex>

#include "support/program_test.hpp"
#include "support/said.hpp"

namespace undershelf::test {

namespace {

namespace fs = std::filesystem;

class Written : public ProgramTest {
  protected:
    /// FAT has local times.
    void SetUp() override { ::setenv("TZ", "UTC", 1); }
    /// Files and folders with their sizes and times, and what the tag files say.
    std::string bag(const std::string& name) {
        std::vector<std::string> lines;
        for (const auto& entry : fs::recursive_directory_iterator(folder.at(name))) {
            // What has no time of its own gets that of the export.
            constexpr time_t before_this_program = 1'780'000'000;
            struct stat s {};
            ::lstat(entry.path().c_str(), &s);
            const auto path = entry.path().lexically_relative(folder.at(name)).string();
            if (path.starts_with("data/"))
                lines.push_back(
                    fmt::format("{} {} {}{}\n", path, S_ISREG(s.st_mode) ? s.st_size : 0,
                                s.st_mtim.tv_sec < before_this_program ? s.st_mtim.tv_sec : 0,
                                entry.is_symlink() ? " -> " + fs::read_symlink(entry.path()).string() : ""));
        }
        std::sort(lines.begin(), lines.end());
        std::string out = "== bag " + name + "\n";
        for (const auto& line : lines) out += line;
        for (const auto* tag : {"manifest-sha256.txt", "exported.jsonl", "bag-info.txt", "bagit.txt"})
            out += read_file(folder.at(name + "/" + tag));
        return without_dates(out);
    }
    static std::string without_dates(const std::string& text) {
        auto out = std::regex_replace(text, std::regex("\"(ended|source)\":\"[^\"]*\""), "\"$1\":\"\"");
        out = std::regex_replace(
            out, std::regex("(Bagging-Date|Bag-Software-Agent|Undershelf-Shelf): [^\n]*"), "$1:");
        return out;
    }
    std::string export_to(const std::string& bag_name, std::vector<std::string> more) {
        std::vector<std::string> words{"export", "volume.shelf", "--to", bag_name};
        words.insert(words.end(), more.begin(), more.end());
        const auto ran = run(words);
        EXPECT_LE(ran.status, 1) << ran.err;
        return fmt::format("exit {}\n", ran.status) + bag(bag_name);
    }
    std::string capture(const std::string& image, std::vector<std::string> more) {
        std::vector<std::string> words{"capture",   "volume.img", image,      "--simulate",
                                       "drive.csv", "--reads",    "reads.csv"};
        words.insert(words.end(), more.begin(), more.end());
        const auto ran = run(words);
        EXPECT_LE(ran.status, 1) << ran.err;
        auto out = fmt::format("== capture {}", image);
        for (const auto& word : more) out += " " + word;
        out += fmt::format(": exit {}\n", ran.status);
        for (const auto& file : {std::string("reads.csv"), image + ".coverage.csv", image + ".blocks.csv"}) {
            if (fs::exists(folder.at(file))) out += file + "\n" + read_file(folder.at(file));
        }
        fs::remove(folder.at("reads.csv"));
        return std::regex_replace(out, std::regex("# source: [^\n]*"), "# source:");
    }
};

class WrittenExport : public Written, public ::testing::WithParamInterface<const char*> {};

}  // namespace

TEST_P(WrittenExport, IsWhatWasWrittenBefore) {
    const std::string name = GetParam();
    folder.write("volume.img", made_volume(name));
    ASSERT_EQ(run({"scan", "volume.img", "--shelf", "volume.shelf", "--reach", "traces"}).status, 0);
    auto now = export_to("kept", {"--lost", "--grade", "likely+"});
    now += export_to("kept", {"--all"});
    now += export_to("flat", {"--all", "--tree", "flat", "--links"});
    now += export_to("by-kind", {"--lost", "--tree", "kind"});
    now += export_to("by-month", {"--lost", "--tree", "month"});
    expect_said("export-" + name, now);
}

INSTANTIATE_TEST_SUITE_P(Volumes, WrittenExport,
                         ::testing::Values("fat16-deleted", "ntfs-deleted", "hfsplus-small-nodes"),
                         [](const auto& test) {
                             std::string name = test.param;
                             std::replace(name.begin(), name.end(), '-', '_');
                             return name;
                         });

TEST_F(Written, CapturesAreWhatWasWrittenBefore) {
    folder.write("volume.img", made_volume("fat16-deleted"));
    folder.write("drive.csv",
                 "offset,length,behaviour\n1024,512,fail\n60000,3000,fail\n200192,512,fail 3\n"
                 "1048576,131072,fail\n4194304,4096,slow 30\n5000192,1024,fail 5\n");
    auto now = capture("plain.img", {});
    now += capture("plain.img", {"--again", "2"});
    now += capture("back.img", {"--from-end"});
    now += capture("heads.img", {"--metadata-only"});
    now += capture("heads.img", {"--range", "300000,100000", "--range", "2000000,50000"});
    now += capture("heads.img", {"--metadata-first", "--again", "1"});
    now += capture("slow.img", {"--patience", "5", "--split", "3M", "--hash"});
    ASSERT_EQ(run({"scan", "volume.img", "--shelf", "volume.shelf"}).status, 0);
    now += capture("wanted.img", {"--from", "volume.shelf", "--lost"});
    expect_said("capture-fat16-deleted", now);
}

}  // namespace undershelf::test
