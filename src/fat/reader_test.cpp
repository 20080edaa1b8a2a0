#include "fat/reader.hpp"

#include <gtest/gtest.h>

#include <cstring>

#include "fat/file_system.hpp"
#include "support/fat_image.hpp"
#include "support/read_volume.hpp"

namespace undershelf::fat {

namespace {
using test::has_fact;

test::Collector read(test::FatImage& image, RangeSet bad = {}) {
    return test::read_volume(file_system(), image.bytes(), std::move(bad));
}

std::string content_of(test::FatImage& image, const Entry& e) {
    return test::content_of(image.bytes(), e);
}
}  // namespace

TEST(FatReader, ReadsTheLiveTree) {
    test::FatImage image;
    image.chain({4});
    image.make_folder(4, 0);
    image.add(0, {"SCRIPTS    ", u"Scripts", 4, 0, ATTR_DIRECTORY});
    const auto text = test::sample_text("Winter play", 1200);
    image.put(4, "WINTER~1TXT", u"Winter play.txt", {10, 11, 30}, text);
    const auto seen = read(image);
    ASSERT_EQ(seen.entries.size(), 2u);
    const auto* play = seen.find("Winter play.txt");
    ASSERT_TRUE(play);
    EXPECT_EQ(play->parent, seen.find("Scripts")->key);
    EXPECT_EQ(play->layout, Layout::known);
    EXPECT_EQ(content_of(image, *play), text);
    EXPECT_EQ(iso8601(*play->modified), "2025-03-04T10:00:00");
}

TEST(FatReader, LaysDeletedFilesAroundOlderLiveOnes) {
    test::FatImage image;
    image.put(0, "OLD     TXT", u"", {12}, "old");
    const auto text = test::sample_text("Lost", 3 * 512);
    const auto slot = image.put(0, "LOST    TXT", u"lost.txt", {10, 11, 13}, text);
    image.erase(slot);
    const auto seen = read(image);
    const auto* lost = seen.find("lost.txt");
    ASSERT_TRUE(lost);
    EXPECT_EQ(lost->origin, Origin::deleted);
    EXPECT_EQ(lost->layout, Layout::assumed);
    EXPECT_TRUE(has_fact(*lost, Fact::next_free));
    EXPECT_EQ(content_of(image, *lost), text);
}

TEST(FatReader, TakesAYoungerLiveFileForAnOverwriter) {
    test::FatImage image;
    const auto slot =
        image.put(0, "LOST    TXT", u"lost.txt", {10, 11, 12}, test::sample_text("Lost", 3 * 512));
    image.erase(slot);
    image.chain({11});
    image.add(0, {"YOUNG   TXT", {}, 11, 100, 0x20, 0x5B64});
    const auto seen = read(image);
    const auto* lost = seen.find("lost.txt");
    ASSERT_TRUE(lost);
    ASSERT_EQ(lost->claims.size(), 1u);
    EXPECT_EQ(lost->claims[0].length, 3u * 512);
}

TEST(FatReader, FollowsDeletedFolders) {
    test::FatImage image;
    image.chain({4});
    image.make_folder(4, 0);
    const auto folder = image.add(0, {"SUMMER     ", u"Summer play", 4, 0, ATTR_DIRECTORY});
    const auto file = image.put(4, "ACT1    TXT", u"act 1.txt", {10}, "curtain");
    image.erase(file);
    image.erase(folder);
    const auto seen = read(image);
    ASSERT_TRUE(seen.find("act 1.txt"));
    EXPECT_EQ(seen.find("act 1.txt")->parent, seen.find("Summer play")->key);
    EXPECT_EQ(content_of(image, *seen.find("act 1.txt")), "curtain");
}

TEST(FatReader, FollowsAFolderIntoItsNextCluster) {
    test::FatImage image;
    image.chain({4, 40});
    image.make_folder(4, 0);
    const auto folder = image.add(0, {"SUMMER     ", u"Summer play", 4, 0, ATTR_DIRECTORY});
    // A long name that ends in the next cluster.
    for (int i = 0; i < 13; ++i)
        image.add(4, {"CUE" + std::string(1, static_cast<char>('A' + i)) + "    CSV",
                      {},
                      static_cast<Cluster>(100 + i),
                      5});
    test::FatImage names;
    names.put(0, "EPILOG~1TXT", u"epilogue.txt", {200}, "x");
    std::memcpy(image.bytes().data() + image.cluster_offset(4) + 15 * slot_size,
                names.bytes().data() + names.cluster_offset(2), slot_size);
    std::memcpy(image.bytes().data() + image.cluster_offset(40),
                names.bytes().data() + names.cluster_offset(2) + slot_size, slot_size);
    image.erase(folder);
    const auto seen = read(image);
    ASSERT_TRUE(seen.find("epilogue.txt"));
    EXPECT_EQ(seen.find("epilogue.txt")->parent, seen.find("Summer play")->key);
}

TEST(FatReader, FindsAFolderWhoseOwnEntryIsGone) {
    test::FatImage image;
    image.make_folder(50, 0);
    image.put(50, "ACT1    TXT", u"act 1.txt", {60}, "curtain");
    image.set_fat(60, 0);
    const auto seen = read(image);
    ASSERT_TRUE(seen.find("folder-50"));
    EXPECT_EQ(seen.find("folder-50")->name_certainty, NameCertainty::made_up);
    EXPECT_EQ(seen.find("act 1.txt")->parent, seen.find("folder-50")->key);
    EXPECT_EQ(seen.find("act 1.txt")->origin, Origin::deleted);
}

TEST(FatReader, TellsRenamedFromLost) {
    test::FatImage image;
    image.put(0, "NEWNAM~1TXT", u"new name.txt", {10}, "same");
    image.add(0, {"OLDNAM~1TXT", u"old name.txt", 10, 4, 0x20, 0x5A64, 0x5000, true});
    const auto seen = read(image);
    EXPECT_FALSE(seen.find("old name.txt"));
    ASSERT_EQ(seen.late.size(), 1u);
    EXPECT_EQ(seen.late[0].first, seen.find("new name.txt")->key);
    EXPECT_EQ(seen.late[0].second.text, "old name.txt");
}

TEST(FatReader, ArguesFirstLetters) {
    test::FatImage image;
    image.put(0, "CWL_0001PNG", u"", {10}, "x");
    image.add(0, {"CWL_0002PNG", {}, 11, 5, 0x20, 0x5A64, 0x5000, true});
    image.add(0, {"OWL     WAV", {}, 12, 5, 0x20, 0x5A64, 0x5000, true});
    image.add(0, {"2025       ", {}, 14, 0, ATTR_DIRECTORY, 0x5A64, 0x5000, true});
    const auto seen = read(image);
    ASSERT_TRUE(seen.find("CWL_0002.PNG"));
    EXPECT_TRUE(has_fact(*seen.find("CWL_0002.PNG"), Fact::first_letter_argued));
    ASSERT_TRUE(seen.find("_WL.WAV"));
    EXPECT_EQ(seen.find("_WL.WAV")->name_certainty, NameCertainty::first_letter_unknown);
    EXPECT_TRUE(seen.find("2025"));
}

TEST(FatReader, ReadsFoldersThatHoldThemselves) {
    test::FatImage image;
    image.chain({4});
    image.make_folder(4, 0);
    image.add(0, {"LOOP       ", {}, 4, 0, ATTR_DIRECTORY});
    image.add(4, {"INNER      ", {}, 4, 0, ATTR_DIRECTORY});
    image.add(4, {"ROOT       ", {}, 2, 0, ATTR_DIRECTORY});
    const auto seen = read(image);
    EXPECT_EQ(seen.entries.size(), 3u);
    EXPECT_EQ(seen.diagnostics.size(), 2u);
}

TEST(FatReader, CopesWithBrokenChains) {
    test::FatImage image;
    image.put(0, "SHORT   TXT", u"short.txt", {10}, test::sample_text("short", 2000));
    image.put(0, "CROSS1  TXT", u"one.txt", {20, 21, 22}, test::sample_text("one", 1500));
    image.put(0, "CROSS2  TXT", u"two.txt", {30, 31}, test::sample_text("two", 1500));
    image.set_fat(31, 21);
    image.put(0, "LOOP    TXT", u"loop.txt", {40, 41}, test::sample_text("loop", 5000));
    image.set_fat(41, 40);
    image.put(0, "AWAY    TXT", u"away.txt", {50}, test::sample_text("away", 1500));
    image.set_fat(50, 900'000);
    image.add(0, {"OUT     TXT", u"out.txt", 800'000, 100});
    const auto seen = read(image);
    ASSERT_EQ(seen.entries.size(), 6u);
    EXPECT_TRUE(has_fact(*seen.find("short.txt"), Fact::chain_too_short));
    EXPECT_EQ(seen.find("short.txt")->pieces.back().kind, PieceKind::missing);
    EXPECT_TRUE(has_fact(*seen.find("two.txt"), Fact::chain_crosses));
    EXPECT_TRUE(has_fact(*seen.find("loop.txt"), Fact::bad_metadata));
    EXPECT_TRUE(has_fact(*seen.find("away.txt"), Fact::chain_leaves_volume));
    EXPECT_TRUE(has_fact(*seen.find("out.txt"), Fact::start_outside));
    EXPECT_EQ(seen.find("out.txt")->layout, Layout::none);
}

TEST(FatReader, ReadsWhatATruncatedVolumeStillHolds) {
    test::FatImage image;
    image.put(0, "HERE    TXT", u"here.txt", {10}, "here");
    image.put(0, "AWAY    TXT", u"away.txt", {1900}, "away");
    image.bytes().resize(image.cluster_offset(500));
    const auto seen = read(image);
    EXPECT_TRUE(seen.find("here.txt"));
    EXPECT_TRUE(seen.find("away.txt"));
}

TEST(FatReader, SurvivesFlippedBytes) {
    test::FatImage image({.clusters = 300});
    image.chain({4});
    image.make_folder(4, 0);
    image.add(0, {"SCRIPTS    ", u"Scripts", 4, 0, ATTR_DIRECTORY});
    for (Cluster c = 10; c < 16; ++c)
        image.put(4, "ACT" + std::to_string(c) + "   TXT",
                  u"act " + std::u16string(1, static_cast<char16_t>('0' + c - 10)) + u".txt", {c, c + 20},
                  test::sample_text("act", 900));
    const auto sound = image.bytes();
    const auto end = image.cluster_offset(6);
    // Every byte of boot sector, FATs and folders, one at a time.
    for (std::size_t at = 0; at < end; at += at < 96 || at >= image.geometry().fat_offset ? 1 : 64) {
        for (const std::uint8_t value : {0x00, 0xFF, 0xE5}) {
            image.bytes() = sound;
            image.bytes()[at] = value;
            const auto seen = read(image);
            for (const auto& e : seen.entries) ASSERT_LE(e.pieces.size(), 16u);
        }
    }
}

}  // namespace undershelf::fat
