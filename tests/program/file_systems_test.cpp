// The built program on volumes of the file systems whose files have more than one name and one content.

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <filesystem>
#include <map>
#include <nlohmann/json.hpp>
#include <set>
#include <sstream>

#include "ntfs/structures.hpp"
#include "support/fat_image.hpp"
#include "support/hfsplus_image.hpp"
#include "support/ntfs_image.hpp"
#include "support/program_test.hpp"

namespace undershelf::test {

using ::testing::HasSubstr;
using ::testing::Not;

namespace {

class FileSystems : public ProgramTest {
  protected:
    std::string exported(const std::string& path) { return read_file(folder.at("out/data/live/" + path)); }
};

}  // namespace

TEST_F(FileSystems, ResourceForksAreExportedBesideTheirFile) {
    hfsplus::Image image;
    const auto fork = sample_text("icon", 700);
    image.fill(100, "data");
    image.fill(101, fork);
    image.leaves(hfsplus::Image::catalogue,
                 {{hfsplus::file_record({21, 2, u"poster", {4, {{100, 1}}}, {700, {{101, 1}}}})}});
    folder.write("studio.img", image.bytes);
    ASSERT_EQ(run({"scan", "studio.img"}).status, 0);
    EXPECT_EQ(run({"export", "studio.shelf", "--to", "out", "--origin", "live"}).status, 0);
    EXPECT_EQ(exported("poster"), "data");
    const auto apple_double = exported("._poster");
    ASSERT_EQ(apple_double.size(), 782u);
    EXPECT_EQ(apple_double.substr(82), fork);
    EXPECT_EQ(run({"verify", "out"}).status, 0);
}

TEST_F(FileSystems, HardLinksAndStreamsAreExportedUnderEachName) {
    ntfs::Image image;
    using namespace undershelf::ntfs;
    image.record(30, 1, 1,
                 {ntfs::Image::times(), ntfs::Image::name(5, 5, u"play.txt"),
                  ntfs::Image::name(5, 5, u"copy.txt"), ntfs::resident(ATTR_DATA, ntfs::as_bytes("main")),
                  ntfs::resident(ATTR_DATA, ntfs::as_bytes("aside"), u"notes")});
    folder.write("office.img", image.bytes);
    ASSERT_EQ(run({"scan", "office.img"}).status, 0);
    EXPECT_EQ(run({"export", "office.shelf", "--to", "out", "--origin", "live"}).status, 0);
    for (const char* name : {"play.txt", "copy.txt"}) {
        EXPECT_EQ(exported(name), "main");
        EXPECT_EQ(exported(std::string(name) + "~notes"), "aside");
    }
}

TEST_F(FileSystems, TheChangeJournalDatesDeletions) {
    ntfs::Image image;
    using namespace undershelf::ntfs;
    image.record(31, 5, 0,
                 {ntfs::Image::times(), ntfs::Image::name(5, 5, u"gone.txt"),
                  ntfs::resident(ATTR_DATA, ntfs::as_bytes("gone"))});
    image.put(700 * ntfs::cluster, ntfs::journal_record(2, 31 | 4ull << 48, 5 | 5ull << 48, u"gone.txt",
                                                        USN_REASON_FILE_DELETE, ntfs::when));
    image.record(50, 1, 1,
                 {ntfs::Image::name(MFT_REC_EXTEND, 11, u"$UsnJrnl"),
                  ntfs::non_resident(ATTR_DATA, {{700, 1}}, ntfs::cluster, ntfs::cluster, 0, 0, u"$J")});
    folder.write("office.img", image.bytes);
    ASSERT_EQ(run({"scan", "office.img"}).status, 0);
    EXPECT_THAT(run({"list", "office.shelf", "--deleted", "2024-03-04", "--format", "jsonl"}).out,
                HasSubstr("gone.txt"));
    EXPECT_THAT(run({"list", "office.shelf", "--deleted", "2024-03-05..", "--format", "jsonl"}).out,
                Not(HasSubstr("gone.txt")));
}

TEST_F(FileSystems, TheDemoVolumesTellTheirStories) {
    ASSERT_EQ(run({"demo", "demo"}).status, 0);
    EXPECT_THAT(run({"tree", "demo/stick.shelf", "--lost"}).out,
                HasSubstr("Poster Köstritz am See, new date.pdf"));
    EXPECT_THAT(run({"list", "demo/stick.shelf", "--unread"}).out,
                ::testing::AllOf(HasSubstr("Alderbrook/Evening recording.wav"),
                                 HasSubstr("Marrow Bay/Evening recording.wav")));
    EXPECT_THAT(run({"list", "demo/theatre-backup.shelf", "--lost", "--format", "jsonl"}).out,
                HasSubstr("\"first_path\":\"Prop ledgers/2019 all props.csv\""));
    // What only serves the bin steps back, and what is in it goes under its first path.
    const std::string record = "$IQ7ZL2M.csv", first = "2019 all props.csv";
    const std::vector<std::string> looks[] = {{"list", "demo/theatre-backup.shelf"},
                                              {"tree", "demo/theatre-backup.shelf"}};
    for (auto look : looks) {
        EXPECT_THAT(run(look).out, ::testing::AllOf(HasSubstr(first), Not(HasSubstr(record)))) << look[0];
        look.push_back("--helpers");
        EXPECT_THAT(run(look).out, HasSubstr(record)) << look[0];
    }
    EXPECT_THAT(run({"list", "demo/theatre-backup.shelf", "--format", "csv"}).out, HasSubstr(record));
    EXPECT_THAT(run({"summary", "demo/theatre-backup.shelf"}).out, HasSubstr("--helpers"));
    EXPECT_THAT(run({"list", "demo/theatre-backup.shelf", "--name", "2019*"}).out, HasSubstr(first));
    ASSERT_EQ(run({"export", "demo/theatre-backup.shelf", "--to", "bin", "--under", "$RECYCLE.BIN", "--grade",
                   "likely+"})
                  .status,
              0);
    EXPECT_FALSE(read_file(folder.at("bin/data/live/Prop ledgers/2019 all props.csv")).empty());
    EXPECT_THAT(read_file(folder.at("bin/exported.jsonl")),
                ::testing::AllOf(HasSubstr("\"first_path\":\"Prop ledgers/2019 all props.csv\""),
                                 Not(HasSubstr(record))));
    const auto takes =
        run({"list", "demo/theatre-studio.shelf", "--lost", "--grade", "likely+", "--format", "jsonl"}).out;
    EXPECT_THAT(takes, HasSubstr("Takes/Winter play/take 08.wav"));
    EXPECT_THAT(takes, Not(HasSubstr("take 01.wav")));
    ASSERT_EQ(run({"export", "demo/theatre-studio.shelf", "--to", "out", "--under", "Takes/Winter play",
                   "--grade", "likely+"})
                  .status,
              0);
    const auto take = read_file(folder.at("out/data/deleted/Takes/Winter play/take 08.wav"));
    EXPECT_EQ(take.substr(0, 4), "RIFF");
}

namespace {
/// What a scan with this reach says of each file: by volume, path, stream and length the best chance.
using Chances = std::map<std::string, double>;
}  // namespace

TEST_F(FileSystems, ADeeperReachMakesNoGoodFileWorse) {
    ASSERT_EQ(run({"demo", "demo"}).status, 0);
    const auto chances = [&](const std::string& image, const std::string& reach,
                             std::set<std::string>& broken) {
        run({"scan", image, "--shelf", reach + ".shelf", "--reach", reach});
        Chances out;
        std::istringstream lines(run({"list", reach + ".shelf", "--format", "jsonl"}).out);
        for (std::string line; std::getline(lines, line);) {
            const auto row = parsed(line);
            if (row["is_dir"]) continue;
            const auto key =
                dumped(row["volume"]) + dumped(row["path"]) + dumped(row["stream"]) + dumped(row["size"]);
            out[key] = std::max(out[key], row["chance"].get<double>());
            if (row["complete"] == false) broken.insert(key);
        }
        std::filesystem::remove(folder.at(reach + ".shelf"));
        return out;
    };
    std::size_t images = 0;
    for (const auto& file : std::filesystem::directory_iterator(folder.at("demo"))) {
        if (file.path().extension() != ".img") continue;
        ++images;
        const auto image = file.path().string();
        std::set<std::string> broken;
        const auto plain = chances(image, "volumes", broken);
        for (const char* reach : {"traces", "content"}) {
            broken.clear();
            const auto deeper = chances(image, reach, broken);
            for (const auto& [key, chance] : plain) {
                if (chance < 0.8 || broken.contains(key)) continue;
                const auto it = deeper.find(key);
                ASSERT_NE(it, deeper.end()) << image << ' ' << reach << ' ' << key;
                EXPECT_GE(it->second, chance - 0.01) << image << ' ' << reach << ' ' << key;
            }
        }
    }
    EXPECT_GE(images, 3u);
}

}  // namespace undershelf::test
