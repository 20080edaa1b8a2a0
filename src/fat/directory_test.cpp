#include "fat/directory.hpp"

#include <gtest/gtest.h>

#include <cstring>
#include <random>

#include "support/fat_image.hpp"
#include "support/memory_device.hpp"

namespace undershelf::fat {

namespace {
Listing root_of(test::FatImage& image, RangeSet bad = {}) {
    const auto source = test::memory_source(image.bytes(), std::move(bad));
    return parse_folder(FolderBytes(*source, {{image.cluster_offset(2), image.geometry().cluster_size}}));
}
}  // namespace

TEST(NameChecksum, CanBeRunBackwards) {
    std::mt19937 random(3);
    for (int i = 0; i < 1000; ++i) {
        std::uint8_t name[11];
        for (auto& c : name) c = static_cast<std::uint8_t>(random());
        EXPECT_EQ(solve_first_byte(name, name_checksum(name)), name[0]);
    }
}

TEST(ParseFolder, JoinsLongNames) {
    test::FatImage image({.clusters = 2000, .sectors_per_cluster = 8});
    image.put(0, "THEFOX~1TXT", u"The fox under the bridge.txt", {5}, "x");
    image.put(0, "EXACTL~1TXT", u"exactly13.txt", {6}, "x");
    image.put(0, "PLAIN   TXT", u"", {7}, "x");
    const auto listing = root_of(image);
    ASSERT_EQ(listing.entries.size(), 3u);
    EXPECT_EQ(listing.entries[0].long_name, u"The fox under the bridge.txt");
    EXPECT_EQ(listing.entries[1].long_name, u"exactly13.txt");
    EXPECT_TRUE(listing.entries[2].long_name.empty());
    EXPECT_TRUE(listing.orphans.empty());
}

TEST(ParseFolder, KeepsErasedNeighboursApart) {
    test::FatImage image({.clusters = 2000, .sectors_per_cluster = 8});
    const auto a = image.put(0, "THEFOX~1TXT", u"The fox under the bridge.txt", {5}, "x");
    const auto b = image.put(0, "EXACTL~1TXT", u"exactly13.txt", {6}, "x");
    const auto c = image.put(0, "OWL     WAV", u"", {7}, "x");
    for (const auto at : {a, b, c}) image.erase(at);
    const auto listing = root_of(image);
    ASSERT_EQ(listing.entries.size(), 3u);
    EXPECT_EQ(listing.entries[0].long_name, u"The fox under the bridge.txt");
    EXPECT_TRUE(listing.entries[0].first_letter_agrees);
    EXPECT_EQ(listing.entries[0].first_letter, 'T');
    EXPECT_EQ(listing.entries[1].long_name, u"exactly13.txt");
    EXPECT_FALSE(listing.entries[1].long_name_cut);
    EXPECT_TRUE(listing.entries[2].long_name.empty());
}

TEST(ParseFolder, LeavesANameWithAWrongChecksum) {
    test::FatImage image({.clusters = 2000, .sectors_per_cluster = 8});
    const auto at = image.put(0, "THEFOX~1TXT", u"The fox under the bridge.txt", {5}, "x");
    image.bytes()[at - slot_size + 13] ^= 1;
    const auto listing = root_of(image);
    ASSERT_EQ(listing.entries.size(), 1u);
    EXPECT_TRUE(listing.entries[0].long_name.empty());
    EXPECT_FALSE(listing.orphans.empty());
}

TEST(ParseFolder, ReportsACutName) {
    test::FatImage image({.clusters = 2000, .sectors_per_cluster = 8});
    const auto at = image.put(0, "CARRIA~1WAV", u"Carriage wheels on gravel, take two.wav", {5}, "x");
    image.erase(at);
    // A newer short entry took the slot that held the end of the name.
    std::memcpy(image.bytes().data() + at - 3 * slot_size, "NEWCUE  CSV\x20", 12);
    const auto listing = root_of(image);
    ASSERT_EQ(listing.entries.size(), 2u);
    EXPECT_TRUE(listing.entries[1].long_name_cut);
    EXPECT_EQ(listing.entries[1].long_name, u"Carriage wheels on gravel,");
}

TEST(ParseFolder, SeesBehindTheEndMarkAndOverBadSectors) {
    test::FatImage image({.clusters = 2000, .sectors_per_cluster = 8});
    std::uint64_t last = 0;
    for (int i = 0; i < 20; ++i)
        last = image.put(0, "CUE" + std::string(1, static_cast<char>('A' + i)) + "    CSV", u"",
                         {static_cast<Cluster>(10 + i)}, "x");
    image.bytes()[last - 2 * slot_size] = 0;  // an end mark before the last two
    const auto listing = root_of(image, RangeSet({{image.cluster_offset(2), 512}}));
    EXPECT_EQ(listing.unreadable_slots, 16u);
    ASSERT_EQ(listing.entries.size(), 3u);
    EXPECT_FALSE(listing.entries[0].after_end);
    EXPECT_TRUE(listing.entries[1].after_end);
}

TEST(Plausible, TurnsGarbageAway) {
    std::mt19937 random(11);
    int accepted = 0;
    for (int i = 0; i < 100'000; ++i) {
        DirEntry e;
        for (std::size_t b = 0; b < sizeof e; ++b)
            reinterpret_cast<std::uint8_t*>(&e)[b] = static_cast<std::uint8_t>(random());
        accepted += is_plausible(e, false);
    }
    EXPECT_LT(accepted, 5);
}

TEST(ShortName, ShowsCaseAndLostLetters) {
    const CodePage page("437");
    DirEntry e{};
    std::memcpy(e.DIR_Name, "OWL     WAV", 11);
    e.DIR_NTRes = case_lower_ext;
    EXPECT_EQ(short_name(e, page, false, 0), "OWL.wav");
    e.DIR_Name[0] = slot_erased;
    EXPECT_EQ(short_name(e, page, true, 0), "_WL.wav");
    EXPECT_EQ(short_name(e, page, true, 'O'), "OWL.wav");
    e.DIR_Name[0] = kanji_e5;
    EXPECT_EQ(short_name(e, page, false, 0), "σWL.wav");
}

TEST(DosTime, ReadsDateAndTenths) {
    EXPECT_EQ(iso8601(*dos_time(0x5A64, 0x5000, 150, std::nullopt)), "2025-03-04T10:00:01.5");
    EXPECT_EQ(iso8601(*dos_time(0x5A64, 0x5000, 0, 60)), "2025-03-04T10:00:00+01:00");
    EXPECT_FALSE(dos_time(0, 0, 0, std::nullopt));
    EXPECT_FALSE(dos_time(0x5A7F | 0x1E0, 0, 0, std::nullopt));
}

}  // namespace undershelf::fat
