#include "fat/start_cluster.hpp"

#include <gtest/gtest.h>

#include "fat/file_system.hpp"
#include "support/collector.hpp"
#include "support/fat_image.hpp"
#include "support/memory_device.hpp"

namespace undershelf::fat {

namespace {
/// A volume with clusters after the first 65536, a live file among them, and a deleted PDF there whose slot
/// has lost the high half of its start.
class HighHalf : public ::testing::Test {
  protected:
    HighHalf() : image({Width::fat32, 140'000}) {
        image.put(0, "LIVE    TXT", u"live.txt", {70'000}, "live");
        image.put(0, "LOW     TXT", u"low.txt", {100}, "low");
    }
    void lose(Cluster real, const std::string& content, const std::string& short_name = "LOST    PDF",
              const std::u16string& name = u"lost.pdf", std::uint16_t date = 0x5A64) {
        image.fill(real, content);
        image.add(0, {short_name, name, real & 0xFFFF, static_cast<std::uint32_t>(content.size()), 0x20, date,
                      0x5000, true});
    }
    const Entry* read(const std::string& name) {
        source = test::memory_source(image.bytes());
        Progress progress;
        const auto volume = file_system().recognise(*source, 0)->volume;
        file_system().open(*source, volume, NoTraces(), {})->read(seen, progress);
        return seen.find(name);
    }
    test::FatImage image;
    std::unique_ptr<Source> source;
    test::Collector seen;
};
}  // namespace

TEST_F(HighHalf, IsRebuiltFromTheContent) {
    lose(70'050, "%PDF-1.4 the poster");
    const auto* lost = read("lost.pdf");
    ASSERT_TRUE(lost);
    ASSERT_EQ(lost->pieces.size(), 1u);
    EXPECT_EQ(lost->pieces[0].source, image.cluster_offset(70'050));
    EXPECT_TRUE(test::has_fact(*lost, Fact::high_word_argued));
}

TEST_F(HighHalf, StaysAsItIsWhereOtherSlotsKeepTheirs) {
    lose(4'550, "plain words");
    image.fill(4'550 + 65'536, "plain words");
    image.add(0, {"KEPT    TXT", u"kept.txt", 80'000, 5, 0x20, 0x5A64, 0x5000, true});
    const auto* lost = read("lost.pdf");
    EXPECT_EQ(lost->pieces[0].source, image.cluster_offset(4'550));
    EXPECT_FALSE(test::has_fact(*lost, Fact::high_word_argued));
}

TEST_F(HighHalf, ZerosNeverBeatWhatIsRecorded) {
    // What is recorded contradicts the name; the other cluster that it may mean is empty.
    lose(4'550, "GIF89a and so on");
    const auto* lost = read("lost.pdf");
    ASSERT_TRUE(lost);
    EXPECT_EQ(lost->pieces[0].source, image.cluster_offset(4'550));
    EXPECT_FALSE(test::has_fact(*lost, Fact::high_word_argued));
}

TEST_F(HighHalf, IsNotArguedWhereWhatIsRecordedHolds) {
    // Both starts are a PDF of its length.
    image.fill(4'550, "%PDF-1.4 the recorded one.");
    lose(4'550 + 65'536, "%PDF-1.4 another one of it");
    const auto* lost = read("lost.pdf");
    ASSERT_TRUE(lost);
    EXPECT_EQ(lost->pieces[0].source, image.cluster_offset(4'550));
    EXPECT_TRUE(test::has_fact(*lost, Fact::high_word_argued));  // it has rivals
}

TEST_F(HighHalf, IsNotArguedWhereChanceExplainsThatNoneIsLeft) {
    // Nearly all live files lie in low clusters, so that one deleted one may as well.
    for (Cluster c = 101; c < 120; ++c) image.put(0, "L" + std::to_string(c) + "    TXT", u"", {c}, "low");
    image.fill(4'550, "GIF89a and so on");
    lose(4'550 + 65'536, "%PDF-1.4 the poster");
    const auto* lost = read("lost.pdf");
    ASSERT_TRUE(lost);
    EXPECT_EQ(lost->pieces[0].source, image.cluster_offset(4'550));
    EXPECT_FALSE(test::has_fact(*lost, Fact::high_word_argued));
}

TEST_F(HighHalf, IsRebuiltWhereNothingElseIsRecorded) {
    // The low half is zero, which by itself is no cluster; another slot has kept its high half.
    lose(65'536, "%PDF-1.4 the poster");
    image.add(0, {"KEPT    TXT", u"kept.txt", 80'000, 5, 0x20, 0x5A64, 0x5000, true});
    const auto* lost = read("lost.pdf");
    ASSERT_TRUE(lost);
    ASSERT_EQ(lost->pieces.size(), 1u);
    EXPECT_EQ(lost->pieces[0].source, image.cluster_offset(65'536));
}

TEST_F(HighHalf, DoesNotTakeAnotherLostFilesStart) {
    lose(300, "%PDF-1.4 one");
    image.put(0, "OVER    TXT", u"over.txt", {200}, "over");
    lose(65'536 + 200, "%PDF-1.4 two", "OTHER   PDF", u"other.pdf", 0x5B64);
    const auto* other = read("other.pdf");
    EXPECT_EQ(other->pieces[0].source, image.cluster_offset(65'736));
    EXPECT_EQ(seen.find("lost.pdf")->pieces[0].source, image.cluster_offset(300));
}

TEST_F(HighHalf, IsRebuiltForFoldersByTheirDotEntry) {
    image.make_folder(75'000, 0);
    image.put(75'000, "ACT1    TXT", u"act 1.txt", {75'001}, "curtain");
    image.set_fat(75'001, 0);
    image.add(0, {"SUMMER     ", u"Summer play", 75'000 & 0xFFFF, 0, 0x10, 0x5A64, 0x5000, true});
    ASSERT_TRUE(read("act 1.txt"));
    EXPECT_EQ(seen.find("act 1.txt")->parent, seen.find("Summer play")->key);
}

}  // namespace undershelf::fat
