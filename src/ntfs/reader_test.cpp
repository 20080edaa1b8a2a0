#include "ntfs/reader.hpp"

#include <gtest/gtest.h>

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
    // A folder whose record has room behind its used part, and an index block with leftovers behind its used
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

TEST(NtfsRuns, RefusesWhatLeavesTheVolume) {
    const auto runs = [](const std::vector<TestRun>& r, std::uint64_t clusters) {
        const auto bytes = non_resident(ATTR_DATA, r, 1, 1);
        return runs_of({ATTR_DATA, false, bytes}, clusters);
    };
    EXPECT_TRUE(runs({{10, 5}, {-5, 1}}, 100));
    EXPECT_FALSE(runs({{10, 5}, {-20, 1}}, 100));
    EXPECT_FALSE(runs({{98, 5}}, 100));
    EXPECT_FALSE(runs({{10, 0}}, 100));
}

}  // namespace undershelf::ntfs
