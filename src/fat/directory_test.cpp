#include "fat/directory.hpp"

#include <gtest/gtest.h>

#include <cstring>
#include <functional>
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

namespace {
Bytes first_cluster_of(test::FatImage& image) {
    return Bytes(image.bytes()).subspan(image.cluster_offset(2), image.geometry().cluster_size);
}
/// Writes `mark` over the first byte of the short entry at `at` and of the long slots before it.
void mark_slots(test::FatImage& image, std::size_t at, std::size_t long_slots, std::uint8_t mark) {
    for (std::size_t i = 0; i <= long_slots; ++i) image.bytes()[at - i * slot_size] = mark;
}
}  // namespace

TEST(ParseFolder, ReadsEntriesThatWereDeletedWithZeros) {
    test::FatImage image({.clusters = 2000, .sectors_per_cluster = 8});
    image.put(0, "PLAIN   TXT", u"", {7}, "x");
    const auto a = image.put(0, "~1         ", u"The fox under the bridge.txt", {5}, "x");
    const auto b = image.put(0, "~2         ", u"exactly13.txt", {6}, "x");
    mark_slots(image, a, 3, slot_end);
    mark_slots(image, b, 1, slot_end);
    const auto listing = root_of(image);
    ASSERT_EQ(listing.entries.size(), 3u);
    EXPECT_EQ(listing.entries[1].long_name, u"The fox under the bridge.txt");
    EXPECT_EQ(listing.entries[2].long_name, u"exactly13.txt");
    for (std::size_t i = 1; i < 3; ++i) {
        EXPECT_TRUE(listing.entries[i].erased && listing.entries[i].zeroed);
        EXPECT_FALSE(listing.entries[i].after_end);
    }
    EXPECT_TRUE(listing.lost);
    EXPECT_TRUE(looks_like_slots(first_cluster_of(image)));
}

TEST(ParseFolder, TakesNoSlotThatBeginsWithZeroWithoutAgreement) {
    test::FatImage image({.clusters = 2000, .sectors_per_cluster = 8});
    const auto a = image.put(0, "THEFOX~1TXT", u"The fox under the bridge.txt", {5}, "x");
    const auto b = image.put(0, "PLAIN   TXT", u"", {7}, "x");
    mark_slots(image, a, 3, slot_end);
    mark_slots(image, b, 0, slot_end);
    image.bytes()[a - slot_size + 13] ^= 1;  // the checksum of one slot only
    EXPECT_TRUE(root_of(image).entries.empty());
}

TEST(ParseFolder, JoinsNamesWhoseChecksumCoversTheMark) {
    test::FatImage image({.clusters = 2000, .sectors_per_cluster = 8});
    const auto a = image.put(0, "THEFOX~1TXT", u"The fox under the bridge.txt", {5}, "x");
    const auto b = image.put(0, "QUITEA~1TXT", u"Quite another name.txt", {6}, "x");
    for (const auto at : {a, b}) {
        image.erase(at);
        const auto sum = name_checksum(image.bytes().data() + at);
        for (std::size_t i = 1; i <= (at == a ? 3u : 2u); ++i) image.bytes()[at - i * slot_size + 13] = sum;
    }
    // The second one's long name is of another short one: nothing but its letters tell.
    std::memcpy(image.bytes().data() + b + 1, "WLSONG~1TXT", 7);
    const auto sum = name_checksum(image.bytes().data() + b);
    for (std::size_t i = 1; i <= 2; ++i) image.bytes()[b - i * slot_size + 13] = sum;
    const auto listing = root_of(image);
    ASSERT_EQ(listing.entries.size(), 2u);
    EXPECT_EQ(listing.entries[0].long_name, u"The fox under the bridge.txt");
    EXPECT_FALSE(listing.entries[0].first_letter_agrees);
    EXPECT_TRUE(listing.entries[1].long_name.empty());
}

TEST(ParseFolder, JoinsNamesOfWhichTheShortEntryAloneIsMarked) {
    test::FatImage image({.clusters = 2000, .sectors_per_cluster = 8});
    const auto at = image.put(0, "THEFOX~1TXT", u"The fox under the bridge.txt", {5}, "x");
    image.bytes()[at] = slot_erased;
    const auto listing = root_of(image);
    ASSERT_EQ(listing.entries.size(), 1u);
    EXPECT_EQ(listing.entries[0].long_name, u"The fox under the bridge.txt");
    EXPECT_TRUE(listing.entries[0].first_letter_agrees);
    EXPECT_TRUE(listing.orphans.empty());
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

TEST(Plausible, IsWhatTheSpecificationAllowsAndNothingElse) {
    // Date and time as the specification packs them (section 6.3): years from 1980, seconds by two.
    const auto date = [](int month, int day) {
        return static_cast<std::uint16_t>(45 << 9 | month << 5 | day);
    };
    const auto time = [](int h, int m, int s) {
        return static_cast<std::uint16_t>(h << 11 | m << 5 | s / 2);
    };
    const auto with = [&](const std::function<void(DirEntry&)>& change, bool erased = false) {
        DirEntry e{};
        std::memcpy(e.DIR_Name, "OWL     WAV", 11);
        e.DIR_FileSize = 9000;
        e.DIR_WrtDate = date(3, 4);
        e.DIR_WrtTime = time(23, 59, 58);
        change(e);
        return is_plausible(e, erased);
    };
    // Writers that note no dates of birth and access leave zeros.
    EXPECT_TRUE(with([](DirEntry&) {}));
    EXPECT_TRUE(with([](DirEntry& e) { e.DIR_WrtDate = e.DIR_WrtTime = 0; }));
    for (const auto sound : {date(1, 1), date(12, 31)}) {
        EXPECT_TRUE(with([&](DirEntry& e) { e.DIR_WrtDate = sound; }));
        EXPECT_TRUE(with([&](DirEntry& e) { e.DIR_CrtDate = e.DIR_LstAccDate = sound; }));
    }
    for (const auto wrong : {date(0, 1), date(13, 1), date(1, 0)}) {
        EXPECT_FALSE(with([&](DirEntry& e) { e.DIR_CrtDate = wrong; }));
        EXPECT_FALSE(with([&](DirEntry& e) { e.DIR_WrtDate = wrong; }));
        EXPECT_FALSE(with([&](DirEntry& e) { e.DIR_LstAccDate = wrong; }));
    }
    for (const auto wrong : {time(24, 0, 0), time(0, 60, 0), time(0, 0, 60)}) {
        EXPECT_FALSE(with([&](DirEntry& e) { e.DIR_CrtTime = wrong; }));
        EXPECT_FALSE(with([&](DirEntry& e) { e.DIR_WrtTime = wrong; }));
    }
    EXPECT_TRUE(with([](DirEntry& e) { e.DIR_CrtTimeTenth = 199; }));
    EXPECT_FALSE(with([](DirEntry& e) { e.DIR_CrtTimeTenth = 200; }));
    for (const int bit : {0x40, 0x80})
        EXPECT_FALSE(with([&](DirEntry& e) { e.DIR_Attr = static_cast<std::uint8_t>(bit); }));
    EXPECT_TRUE(with([](DirEntry& e) { e.DIR_NTRes = 0x18; }));
    EXPECT_FALSE(with([](DirEntry& e) { e.DIR_NTRes = 0x20; }));
    EXPECT_TRUE(with([](DirEntry& e) { e.DIR_Attr = ATTR_DIRECTORY, e.DIR_FileSize = 0; }));
    EXPECT_FALSE(with([](DirEntry& e) { e.DIR_Attr = ATTR_DIRECTORY; }));
    // What marks an erased entry tells nothing of its first letter.
    for (const char first : {' ', '\x01'}) {
        EXPECT_FALSE(with([&](DirEntry& e) { e.DIR_Name[0] = static_cast<std::uint8_t>(first); }));
        EXPECT_TRUE(with([&](DirEntry& e) { e.DIR_Name[0] = static_cast<std::uint8_t>(first); }, true));
    }
    EXPECT_TRUE(with([](DirEntry& e) { e.DIR_Name[0] = kanji_e5; }));
    EXPECT_TRUE(with([](DirEntry& e) { std::memcpy(e.DIR_Name, "A          ", 11); }));
    EXPECT_FALSE(with([](DirEntry& e) { std::memcpy(e.DIR_Name, "A B     WAV", 11); }));
    EXPECT_FALSE(with([](DirEntry& e) { std::memcpy(e.DIR_Name, "OWL     W V", 11); }));
    EXPECT_FALSE(with([](DirEntry& e) { std::memcpy(e.DIR_Name, "OW*     WAV", 11); }));
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
