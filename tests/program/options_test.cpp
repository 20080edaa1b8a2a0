// Options whose whole effect is in what comes out: where a volume is left out, which dates, zones and
// colours, and in which order a drive is read.

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <filesystem>
#include <sstream>

#include "support/asked_device.hpp"
#include "support/fat_image.hpp"
#include "support/formatted_card.hpp"
#include "support/program_test.hpp"

namespace undershelf::test {

namespace {

using ::testing::AllOf;
using ::testing::AnyOf;
using ::testing::HasSubstr;
using ::testing::Not;

struct Read {
    std::uint64_t offset = 0, length = 0;
    std::uint64_t end() const { return offset + length; }
};

class Options : public ProgramTest {
  protected:
    /// A card with one file of each of two days, and a folder at its very end.
    void make_card() {
        FatImage card({.clusters = 60'000, .sectors_per_cluster = 1});
        card.put(0, "CUES    TXT", u"", {10, 11, 12}, sample_text("cues", 1500));
        card.add(0, {"PROPS   CSV", {}, 30, 400, 0x20, 0x5B64});  // 2025-11-04
        card.chain({30});
        card.fill(30, sample_text("props", 400));
        card.chain({last_folder_});
        card.make_folder(last_folder_, 0);
        card.add(0, {"POSTERS    ", {}, last_folder_, 0, fat::ATTR_DIRECTORY});
        card.put(last_folder_, "HALL    TXT", u"", {40}, sample_text("hall", 500));
        folder_at_ = card.cluster_offset(last_folder_);
        file_at_ = card.cluster_offset(20'000);
        size_ = card.bytes().size();
        folder.write("card.img", card.bytes());
    }
    std::vector<Read> reads() {
        std::istringstream in(read_file(folder.at("reads.csv")));
        std::vector<Read> out;
        std::string line;
        for (std::getline(in, line); std::getline(in, line);) {
            Read r;
            char comma = 0;
            std::istringstream(line) >> r.offset >> comma >> r.length;
            out.push_back(r);
        }
        return out;
    }
    /// Which read has this byte in it first.
    std::size_t first_read_of(std::uint64_t offset) {
        const auto all = reads();
        return static_cast<std::size_t>(
            std::find_if(all.begin(), all.end(),
                         [&](const Read& r) { return r.offset <= offset && offset < r.end(); }) -
            all.begin());
    }
    Ran capture(std::vector<std::string> more) {
        for (const char* old : {"copy.img", "copy.img.coverage.csv", "copy.img.blocks.csv", "reads.csv"})
            std::filesystem::remove(folder.at(old));
        more.insert(more.begin(), {"capture", "card.img", "copy.img", "--reads", "reads.csv"});
        return run(more);
    }
    std::string names(std::vector<std::string> selection) {
        selection.insert(selection.begin(), {"list", "card.shelf", "--format", "csv", "--columns", "name"});
        return run(selection).out;
    }

    static constexpr fat::Cluster last_folder_ = 59'000;
    std::uint64_t folder_at_ = 0, file_at_ = 0, size_ = 0;
};

}  // namespace

TEST_F(Options, AVolumeThatIsNoneIsLeftOut) {
    folder.write("card.img", formatted_card().bytes());
    ASSERT_EQ(run({"scan", "card.img", "--reach", "traces"}).status, 0);
    const auto before = parsed(run({"summary", "card.shelf", "--format", "json"}).out);
    ASSERT_EQ(before["volumes"].size(), 2u);
    EXPECT_THAT(names({"--origin", "former"}), HasSubstr("CUES.TXT"));
    EXPECT_LE(run({"scan", "card.img", "--without-volume", "2"}).status, 1);
    const auto after = parsed(run({"summary", "card.shelf", "--format", "json"}).out);
    EXPECT_EQ(after["volumes"].size(), 1u);
    EXPECT_THAT(names({"--origin", "former"}), Not(HasSubstr("CUES.TXT")));
    // It stays left out.
    EXPECT_LE(run({"scan", "card.img", "--reach", "traces"}).status, 1);
    EXPECT_THAT(names({"--origin", "former"}), Not(HasSubstr("CUES.TXT")));
    EXPECT_EQ(run({"scan", "card.img", "--without-volume", "2", "--reach", "volumes"}).status, 2);
}

TEST_F(Options, FilesAreChosenByWhenTheyWereMade) {
    make_card();
    ASSERT_EQ(run({"scan", "card.img"}).status, 0);
    EXPECT_THAT(names({"--created", "2025-03"}), AllOf(HasSubstr("CUES.TXT"), Not(HasSubstr("PROPS.CSV"))));
    EXPECT_THAT(names({"--created", "2025-04.."}), AllOf(HasSubstr("PROPS.CSV"), Not(HasSubstr("CUES.TXT"))));
    EXPECT_THAT(names({"--created", "..2024"}), Not(AnyOf(HasSubstr("PROPS.CSV"), HasSubstr("CUES.TXT"))));
    EXPECT_EQ(run({"list", "card.shelf", "--created", "spring"}).status, 2);
}

TEST_F(Options, LocalTimesHaveTheZoneThatIsSaid) {
    make_card();
    for (const auto& [zone, shown] :
         std::initializer_list<std::pair<std::string, std::string>>{{"+05:45", "2025-03-04T10:00:00+05:45"},
                                                                    {"-03:30", "2025-03-04T10:00:00-03:30"},
                                                                    {"-8", "2025-03-04T10:00:00-08:00"}}) {
        ASSERT_EQ(run({"scan", "card.img", "--shelf", "of" + zone + ".shelf", "--zone", zone}).status, 0)
            << zone;
        EXPECT_THAT(run({"list", "of" + zone + ".shelf", "--name", "=CUES.TXT", "--format", "jsonl"}).out,
                    HasSubstr("\"modified\":\"" + shown + "\""));
    }
    EXPECT_EQ(run({"scan", "card.img", "--zone", "+05:75"}).status, 2);
    EXPECT_EQ(run({"scan", "card.img", "--zone", "15"}).status, 2);
}

TEST_F(Options, ColoursAreThereWhereTheyAreAskedFor) {
    make_card();
    ASSERT_EQ(run({"scan", "card.img"}).status, 0);
    EXPECT_THAT(run({"list", "card.shelf", "--color", "always"}).out, HasSubstr("\x1b["));
    for (const char* when : {"never", "auto"})
        EXPECT_THAT(run({"list", "card.shelf", "--color", when}).out, Not(HasSubstr("\x1b["))) << when;
    EXPECT_EQ(run({"list", "card.shelf", "--color", "green"}).status, 2);
}

TEST_F(Options, ADriveIsReadFromItsEnd) {
    make_card();
    ASSERT_EQ(capture({}).status, 0);
    EXPECT_LT(first_read_of(0), first_read_of(size_ - 1));
    ASSERT_EQ(capture({"--from-end"}).status, 0);
    EXPECT_LT(first_read_of(size_ - 1), first_read_of(file_at_));
    EXPECT_LT(first_read_of(file_at_), first_read_of(0));
    EXPECT_EQ(read_file(folder.at("copy.img")), read_file(folder.at("card.img")));
}

TEST_F(Options, WhatNamesFilesIsReadFirst) {
    make_card();
    ASSERT_EQ(capture({}).status, 0);
    EXPECT_LT(first_read_of(file_at_), first_read_of(folder_at_));
    ASSERT_EQ(capture({"--metadata-first"}).status, 0);
    EXPECT_LT(first_read_of(folder_at_), first_read_of(file_at_));
    EXPECT_EQ(read_file(folder.at("copy.img")), read_file(folder.at("card.img")));
}

TEST_F(Options, SlowPlacesAreLeaptOverAsSoonAsPatienceEnds) {
    make_card();
    // From the middle on every read takes long.
    folder.write("drive.csv", "offset,length,behaviour\n" + std::to_string(4 << 20) + ",4194304,slow 60\n");
    const auto skipped = [&](const std::string& patience) {
        EXPECT_EQ(capture({"--simulate", "drive.csv", "--patience", patience}).status, 0);
        std::uint64_t gaps = 0;
        const auto all = reads();
        for (std::size_t i = 1; i < all.size(); ++i) gaps += all[i].offset > all[i - 1].end();
        return gaps;
    };
    EXPECT_EQ(skipped("600000"), 0u);
    EXPECT_GT(skipped("20"), 0u);
    EXPECT_EQ(read_file(folder.at("copy.img")), read_file(folder.at("card.img")));
}

}  // namespace undershelf::test
