#include "ntfs/reader.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <cstring>
#include <random>

#include "support/disk_image.hpp"
#include "support/fat_image.hpp"
#include "support/ntfs_image.hpp"

namespace undershelf::ntfs {

using namespace test::ntfs;
using test::put_number;

TEST(NtfsReader, ReadsLiveAndDeletedRecords) {
    Image image;
    image.record(30, 4, 3, {Image::times(), Image::name(5, 5, u"Scripts")});
    image.record(31, 1, 1,
                 {Image::times(), Image::name(30, 4, u"winter.txt"), Image::name(30, 4, u"WINTER~1.TXT", 2),
                  resident(ATTR_DATA, as_bytes("tiny play"))});
    const auto text = test::sample_text("summer", 6000);
    image.fill(600, text.substr(0, cluster));
    image.fill(590, text.substr(cluster));
    image.record(32, 8, 0,
                 {Image::times(), Image::name(30, 4, u"summer.txt"),
                  non_resident(ATTR_DATA, {{600, 1}, {-10, 1}}, 6000, 6000)});
    const auto seen = read(image.bytes);
    ASSERT_TRUE(seen.find("winter.txt"));
    EXPECT_FALSE(seen.find("WINTER~1.TXT"));
    EXPECT_EQ(content_of(image.bytes, *seen.find("winter.txt")), "tiny play");
    EXPECT_EQ(seen.find("winter.txt")->parent, seen.find("Scripts")->key);
    const auto* summer = seen.find("summer.txt");
    ASSERT_TRUE(summer);
    EXPECT_EQ(summer->origin, Origin::deleted);
    EXPECT_EQ(summer->layout, Layout::known);
    EXPECT_EQ(content_of(image.bytes, *summer), text);
    EXPECT_EQ(iso8601(*summer->modified), "2024-03-04T04:26:40Z");
}

TEST(NtfsReader, JudgesParentsBySequence) {
    Image image;
    image.record(30, 5, 2, {Image::times(), Image::name(5, 5, u"Deleted folder")});
    image.record(31, 9, 3, {Image::times(), Image::name(5, 5, u"New folder")});
    image.record(32, 2, 0, {Image::name(30, 4, u"in deleted.txt"), resident(ATTR_DATA, as_bytes("a"))});
    image.record(33, 2, 0, {Image::name(31, 3, u"in older.txt"), resident(ATTR_DATA, as_bytes("b"))});
    const auto seen = read(image.bytes);
    EXPECT_EQ(seen.find("in deleted.txt")->parent, seen.find("Deleted folder")->key);
    EXPECT_NE(seen.find("in older.txt")->parent, seen.find("New folder")->key);
    EXPECT_TRUE(test::has_fact(*seen.find("in older.txt"), Fact::stale_reference));
}

TEST(NtfsReader, ListsStreamsAndHardLinks) {
    Image image;
    image.record(30, 1, 1,
                 {Image::times(), Image::name(5, 5, u"play.txt"), Image::name(5, 5, u"copy.txt"),
                  resident(ATTR_DATA, as_bytes("main")), resident(ATTR_DATA, as_bytes("aside"), u"notes")});
    const auto seen = read(image.bytes);
    ASSERT_TRUE(seen.find("play.txt") && seen.find("copy.txt"));
    EXPECT_EQ(seen.find("play.txt")->key, seen.find("copy.txt")->key);
    int streams = 0;
    for (const auto& e : seen.entries) {
        if (e.stream != "notes") continue;
        ++streams;
        EXPECT_EQ(content_of(image.bytes, e), "aside");
    }
    EXPECT_EQ(streams, 2);
}

TEST(NtfsReader, ReadsSparseShortAndCompressedContents) {
    Image image;
    image.fill(600, std::string(cluster, 'x'));
    image.record(
        30, 1, 1,
        {Image::name(5, 5, u"sparse.bin"), non_resident(ATTR_DATA, {{600, 1}, {0, 1}}, 2 * cluster, 100)});
    // One LZNT1 chunk: a literal and a back reference that repeats it.
    const std::string packed(
        "\x03\xB0\x02"
        "a\xFC\x0F",
        6);
    image.fill(610, packed);
    image.record(
        31, 1, 1,
        {Image::name(5, 5, u"packed.txt"), non_resident(ATTR_DATA, {{610, 1}, {0, 15}}, 4096, 4096, 1)});
    const auto seen = read(image.bytes);
    EXPECT_EQ(content_of(image.bytes, *seen.find("sparse.bin")),
              std::string(100, 'x') + std::string(2 * cluster - 100, '\0'));
    EXPECT_EQ(content_of(image.bytes, *seen.find("packed.txt")), std::string(4096, 'a'));
    EXPECT_TRUE(test::has_fact(*seen.find("packed.txt"), Fact::compressed));
}

TEST(NtfsReader, FollowsAttributeLists) {
    const auto list_entry = [](std::uint32_t type, std::uint64_t vcn, std::uint64_t record,
                               std::uint16_t sequence) {
        ByteVector e(32);
        put_number(e, 0, type, 4);
        put_number(e, 4, 32, 2);
        put_number(e, 8, vcn, 8);
        put_number(e, 16, record | std::uint64_t{sequence} << 48, 8);
        return e;
    };
    Image image;
    ByteVector list;
    for (const auto& e :
         {list_entry(ATTR_DATA, 0, 30, 4), list_entry(ATTR_DATA, 1, 40, 4), list_entry(ATTR_DATA, 2, 30, 4)})
        list.insert(list.end(), e.begin(), e.end());
    const auto text = test::sample_text("long", 2 * cluster);
    image.fill(700, text.substr(0, cluster));
    image.fill(710, text.substr(cluster));
    // Deleted: the records' numbers went up, the references keep those from before.
    image.record(30, 5, 0,
                 {Image::name(5, 5, u"long.txt"), resident(ATTR_LIST, list),
                  non_resident(ATTR_DATA, {{700, 1}}, 2 * cluster, 2 * cluster)});
    image.record(40, 5, 0, {non_resident(ATTR_DATA, {{710, 1}}, 0, 0, 0, 1)}, 30 | 4ull << 48);
    auto seen = read(image.bytes);
    ASSERT_TRUE(seen.find("long.txt"));
    EXPECT_EQ(content_of(image.bytes, *seen.find("long.txt")), text);
    // Without its extension the rest is missing, and said to be.
    image.record(40, 6, 1, {Image::name(5, 5, u"other.txt"), resident(ATTR_DATA, as_bytes("x"))});
    seen = read(image.bytes);
    EXPECT_EQ(seen.find("long.txt")->pieces.back().kind, PieceKind::missing);
}

TEST(NtfsReader, ReadsNamesFromIndexLeftovers) {
    Image image;
    // A folder whose record has room after its used part, and an index block with leftovers after its used
    // part.
    image.record(30, 1, 3,
                 {Image::name(5, 5, u"Scripts"),
                  non_resident(ATTR_ALLOC, {{650, 1}}, cluster, cluster, 0, 0, u"$I30")});
    auto& bytes = image.bytes;
    const auto in_record = index_entry(900 | 1ull << 48, file_name(30, 1, u"was small.txt"));
    std::copy(in_record.begin(), in_record.end(),
              bytes.begin() + static_cast<std::ptrdiff_t>(image.place(30) + 600));
    const std::size_t block = 650 * cluster;
    std::memcpy(bytes.data() + block, "INDX", 4);
    put_number(bytes, block + 4, 40, 2);
    put_number(bytes, block + 6, 9, 2);
    put_number(bytes, block + 28, 64, 4);
    for (std::size_t i = 1; i <= 8; ++i) put_number(bytes, block + i * 512 - 2, 0, 2);
    const auto in_block = index_entry(901 | 1ull << 48, file_name(30, 1, u"was large.txt"));
    std::copy(in_block.begin(), in_block.end(), bytes.begin() + static_cast<std::ptrdiff_t>(block + 1000));
    const auto seen = read(bytes);
    for (const char* name : {"was small.txt", "was large.txt"}) {
        ASSERT_TRUE(seen.find(name)) << name;
        EXPECT_EQ(seen.find(name)->layout, Layout::none);
        EXPECT_EQ(seen.find(name)->parent, seen.find("Scripts")->key);
    }
}

TEST(NtfsReader, ReadsAttributeListsOutsideTheRecord) {
    Image image;
    ByteVector list;
    // The second entry names the list's own record, as damaged lists do; it is read once.
    for (const std::uint64_t record : {30, 30, 40}) {
        ByteVector e(32);
        put_number(e, 0, ATTR_DATA, 4);
        put_number(e, 4, 32, 2);
        put_number(e, 8, record == 40 ? 1 : 0, 8);
        put_number(e, 16, record | 4ull << 48, 8);
        list.insert(list.end(), e.begin(), e.end());
    }
    image.put(650 * cluster, list);
    const auto text = test::sample_text("long", 2 * cluster);
    image.fill(700, text.substr(0, cluster));
    image.fill(710, text.substr(cluster));
    image.record(
        30, 4, 1,
        {Image::name(5, 5, u"long.txt"), non_resident(ATTR_LIST, {{650, 1}}, list.size(), list.size()),
         non_resident(ATTR_DATA, {{700, 1}}, 2 * cluster, 2 * cluster)});
    image.record(40, 4, 1, {non_resident(ATTR_DATA, {{710, 1}}, 0, 0, 0, 1)}, 30 | 4ull << 48);
    const auto seen = read(image.bytes);
    ASSERT_TRUE(seen.find("long.txt"));
    EXPECT_EQ(content_of(image.bytes, *seen.find("long.txt")), text);
    EXPECT_EQ(std::count_if(seen.entries.begin(), seen.entries.end(),
                            [](const Entry& e) { return e.name == "long.txt"; }),
              1);
}

TEST(NtfsReader, SurvivesListsThatNameThemselves) {
    Image image;
    ByteVector e(32);
    put_number(e, 0, ATTR_LIST, 4);
    put_number(e, 4, 32, 2);
    put_number(e, 16, 31 | 1ull << 48, 8);
    // Two records each of whose lists names the other; each says that it is the other's extension.
    image.record(30, 1, 1, {Image::name(5, 5, u"ring.txt"), resident(ATTR_LIST, e)});
    image.record(31, 1, 1, {Image::name(5, 5, u"hidden.txt"), resident(ATTR_LIST, e)}, 30 | 1ull << 48);
    auto endless = e;
    put_number(endless, 4, 0, 2);
    image.record(32, 1, 1, {Image::name(5, 5, u"endless.txt"), resident(ATTR_LIST, endless)});
    const auto seen = read(image.bytes);
    EXPECT_TRUE(seen.find("ring.txt") && seen.find("endless.txt"));
}

TEST(NtfsReader, SurvivesRunsOntoTheTableAndBeyondTheEnd) {
    Image image;
    image.record(30, 1, 1,
                 {Image::name(5, 5, u"loop.bin"),
                  non_resident(ATTR_DATA, {{4, 32}, {-2, 32}}, 64 * cluster, 64 * cluster)});
    image.record(
        31, 1, 1,
        {Image::name(5, 5, u"far.bin"), non_resident(ATTR_DATA, {{30000, 4}}, 4 * cluster, 4 * cluster)});
    image.record(32, 1, 1, {Image::name(5, 5, u"fine.txt"), resident(ATTR_DATA, as_bytes("fine"))});
    // An attribute of no length ends its record, and no other.
    image.record(33, 1, 1, {Image::name(5, 5, u"short.txt"), ByteVector(16, 0)});
    // The table's own folder index runs over the table.
    image.record(34, 1, 3,
                 {Image::name(5, 5, u"Folder"),
                  non_resident(ATTR_ALLOC, {{4, 32}}, 32 * cluster, 32 * cluster, 0, 0, u"$I30")});
    const auto seen = read(image.bytes);
    for (const char* name : {"loop.bin", "far.bin", "fine.txt", "short.txt", "Folder"})
        EXPECT_TRUE(seen.find(name)) << name;
    EXPECT_EQ(seen.find("far.bin")->pieces.back().kind, PieceKind::missing);
    // A table whose own runs repeat it: its records are listed under their places, and reading ends.
    image.record(0, 1, 1, {non_resident(ATTR_DATA, {{4, 8}, {-1, 8}, {1, 8}}, 24 * cluster, 24 * cluster)});
    EXPECT_LT(read(image.bytes).entries.size(), 200u);
}

TEST(NtfsReader, TakesTheMirrorForABrokenTable) {
    Image image;
    image.record(30, 1, 1, {Image::name(5, 5, u"play.txt"), resident(ATTR_DATA, as_bytes("play"))});
    std::copy_n(image.bytes.begin() + static_cast<std::ptrdiff_t>(image.place(0)), 4 * record_size,
                image.bytes.begin() + 500 * cluster);
    std::fill_n(image.bytes.begin() + static_cast<std::ptrdiff_t>(image.place(0)), 4 * record_size,
                std::uint8_t{0});
    auto seen = read(image.bytes);
    EXPECT_TRUE(seen.find("play.txt"));
    EXPECT_EQ(seen.diagnostics.size(), 1u);
    std::fill_n(image.bytes.begin() + 500 * cluster, 4 * record_size, std::uint8_t{0});
    seen = read(image.bytes);
    EXPECT_TRUE(seen.entries.empty());
    EXPECT_EQ(seen.diagnostics.size(), 1u);
}

TEST(NtfsReader, ReadsRecordsOf4KiBAndClustersOf2MiB) {
    constexpr std::size_t big = 2 << 20, size = 8 * big;
    ByteVector bytes(size + 512);
    std::memcpy(bytes.data(), "\xEB\x52\x90NTFS    ", 11);
    put_number(bytes, 11, 512, 2);
    bytes[13] = 0xF4;  // 2 to the power of 12 sectors
    put_number(bytes, 40, size / 512, 8);
    put_number(bytes, 48, 1, 8);
    put_number(bytes, 56, 2, 8);
    bytes[64] = 0xF4;  // records of 2 to the power of 12 bytes
    bytes[68] = 0xF4;
    put_number(bytes, 510, 0xAA55, 2);
    const auto put_record = [&](std::uint64_t n, std::uint16_t flags,
                                const std::vector<ByteVector>& attributes) {
        auto r = plain_record(n, 1, flags, attributes, 0, 4096);
        put_fixups(r, 48);
        std::copy(r.begin(), r.end(), bytes.begin() + static_cast<std::ptrdiff_t>(big + n * 4096));
    };
    put_record(0, 1, {non_resident(ATTR_DATA, {{1, 1}}, 64 * 4096, 64 * 4096)});
    put_record(3, 1, {});
    put_record(5, 3, {});
    put_record(30, 1,
               {Image::name(5, 1, u"tiny.txt"), resident(ATTR_DATA, as_bytes(test::sample_text("t", 3000)))});
    const auto text = test::sample_text("big", 5000);
    std::copy(text.begin(), text.end(), bytes.begin() + 4 * big);
    put_record(31, 1, {Image::name(5, 1, u"big.txt"), non_resident(ATTR_DATA, {{4, 1}}, 5000, 5000)});
    const auto seen = read(bytes);
    ASSERT_TRUE(seen.find("tiny.txt") && seen.find("big.txt"));
    EXPECT_EQ(content_of(bytes, *seen.find("tiny.txt")), test::sample_text("t", 3000));
    EXPECT_EQ(content_of(bytes, *seen.find("big.txt")), text);
    EXPECT_EQ(seen.find("big.txt")->claims.front().length, big);
}

TEST(NtfsReader, FindsIndexBlocksInFreeClusters) {
    Image image;
    image.record(6, 6, 1, {Image::name(5, 5, u"$Bitmap"), non_resident(ATTR_DATA, {{60, 1}}, 128, 128)});
    // Record 40 was a folder once and is a file now; its index block lies in a free cluster.
    image.record(40, 2, 1, {Image::name(5, 5, u"new.txt"), resident(ATTR_DATA, as_bytes("new"))});
    image.record(41, 2, 0,
                 {Image::times(), Image::name(40, 1, u"kept.txt"), resident(ATTR_DATA, as_bytes("k"))});
    ByteVector block(cluster);
    std::memcpy(block.data(), "INDX", 4);
    put_number(block, 4, 40, 2);
    put_number(block, 6, 9, 2);
    put_number(block, 28, 0x400, 4);
    auto at = block.begin() + 64;
    for (const auto& e : {index_entry(41 | 1ull << 48, file_name(40, 1, u"kept.txt")),
                          index_entry(900 | 1ull << 48, file_name(40, 1, u"lost.txt"))})
        at = std::copy(e.begin(), e.end(), at);
    put_fixups(block, 40);
    image.put(800 * cluster, block);
    auto seen = read(image.bytes);
    const auto *lost = seen.find("lost.txt"), *kept = seen.find("kept.txt");
    ASSERT_TRUE(lost && kept);
    EXPECT_EQ(lost->parent, kept->parent);
    EXPECT_EQ(lost->layout, Layout::none);
    // In a cluster that is in use by nobody that is listed as well: its owner's record may be lost.
    image.bytes[60 * cluster + 800 / 8] = 1;
    EXPECT_TRUE(read(image.bytes).find("lost.txt"));
    // What a live file has is its content.
    image.record(43, 1, 1,
                 {Image::name(5, 5, u"disk.img"), non_resident(ATTR_DATA, {{800, 1}}, cluster, cluster)});
    EXPECT_FALSE(read(image.bytes).find("lost.txt"));
}

TEST(NtfsReader, SurvivesTornRecordsAndFlippedBytes) {
    Image image;
    image.record(30, 4, 3, {Image::times(), Image::name(5, 5, u"Scripts")});
    image.record(31, 1, 1,
                 {Image::times(), Image::name(30, 4, u"winter.txt"),
                  non_resident(ATTR_DATA, {{600, 3}, {0, 2}, {20, 1}}, 6 * cluster, 5 * cluster)});
    image.record(
        32, 1, 1,
        {Image::name(30, 4, u"packed.txt"), non_resident(ATTR_DATA, {{610, 1}, {0, 15}}, 4096, 4096, 1)});
    auto torn = image.bytes;
    torn[image.place(31) + 1022] ^= 0xFF;
    EXPECT_TRUE(test::has_fact(*read(torn).find("winter.txt"), Fact::torn_record));
    std::mt19937 random(4);
    const auto flip = [&](std::size_t at, std::uint8_t value) {
        auto bytes = image.bytes;
        bytes[at] = value;
        for (auto& e : read(bytes).entries) ASSERT_LE(e.pieces.size(), 5000u);
    };
    for (std::size_t i = 11; i < 84; ++i) flip(i, static_cast<std::uint8_t>(random()));
    for (const std::uint64_t n : {0, 30, 31, 32}) {
        for (std::size_t i = 4; i < 400; i += n ? 2 : 1)
            flip(image.place(n) + i, static_cast<std::uint8_t>(random()));
    }
}

TEST(NtfsReader, SurvivesFlipsInIndexesListsAndJournals) {
    Image image;
    image.record(30, 1, 3,
                 {Image::name(5, 5, u"Scripts"),
                  non_resident(ATTR_ALLOC, {{650, 1}}, cluster, cluster, 0, 0, u"$I30")});
    image.record(31, 1, 1, {Image::name(30, 1, u"kept.txt"), resident(ATTR_DATA, as_bytes("kept"))});
    ByteVector block(cluster);
    std::memcpy(block.data(), "INDX", 4);
    put_number(block, 4, 40, 2);
    put_number(block, 6, 9, 2);
    put_number(block, 24, 40, 4);
    put_number(block, 28, 64, 4);
    const auto old = index_entry(901 | 1ull << 48, file_name(30, 1, u"was here.txt"));
    std::copy(old.begin(), old.end(), block.begin() + 96);
    put_fixups(block, 40);
    image.put(650 * cluster, block);
    ByteVector list(64);
    for (const std::size_t at : {0u, 32u}) {
        put_number(list, at, ATTR_DATA, 4);
        put_number(list, at + 4, 32, 2);
        put_number(list, at + 16, (at ? 40 : 32) | 1ull << 48, 8);
    }
    image.record(32, 1, 1, {Image::name(30, 1, u"long.txt"), resident(ATTR_LIST, list)});
    image.record(40, 1, 1, {non_resident(ATTR_DATA, {{710, 1}}, 100, 100)}, 32 | 1ull << 48);
    image.put(700 * cluster, journal_record(2, 902 | 1ull << 48, 30 | 1ull << 48, u"told.txt", 0x200, when));
    image.record(50, 1, 1,
                 {Image::name(MFT_REC_EXTEND, 11, u"$UsnJrnl"),
                  non_resident(ATTR_DATA, {{700, 1}}, cluster, cluster, 0, 0, u"$J")});
    ASSERT_TRUE(read(image.bytes).find("was here.txt") && read(image.bytes).find("told.txt"));
    std::mt19937 random(9);
    const auto flip_in = [&](std::size_t from, std::size_t length, std::size_t step) {
        for (std::size_t i = 0; i < length; i += step) {
            auto bytes = image.bytes;
            bytes[from + i] = static_cast<std::uint8_t>(random());
            EXPECT_TRUE(read(bytes).find("kept.txt")) << from + i;
        }
    };
    flip_in(650 * cluster, 240, 1);
    flip_in(700 * cluster, 80, 1);
    for (const std::uint64_t n : {30, 32, 40, 50}) flip_in(image.place(n) + 48, 300, 2);
}

TEST(NtfsRuns, RefusesWhatLeavesTheVolume) {
    const auto runs = [](const std::vector<TestRun>& r, std::uint64_t clusters) {
        const auto bytes = non_resident(ATTR_DATA, r, 1, 1);
        Geometry g;
        g.clusters = clusters;
        return runs_of({ATTR_DATA, false, bytes}, g);
    };
    EXPECT_TRUE(runs({{10, 5}, {-5, 1}}, 100));
    EXPECT_FALSE(runs({{10, 5}, {-20, 1}}, 100));
    EXPECT_FALSE(runs({{98, 5}}, 100));
    EXPECT_FALSE(runs({{10, 0}}, 100));
}

}  // namespace undershelf::ntfs
