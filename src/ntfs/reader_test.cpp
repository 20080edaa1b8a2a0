#include "ntfs/reader.hpp"

#include <gtest/gtest.h>

#include <cstring>
#include <random>

#include "base/text.hpp"
#include "ntfs/file_system.hpp"
#include "support/collector.hpp"
#include "support/disk_image.hpp"
#include "support/fat_image.hpp"
#include "support/heads.hpp"
#include "support/memory_device.hpp"
#include "volume/content_stream.hpp"

namespace undershelf::ntfs {

namespace {

using test::put_number;

constexpr std::size_t cluster = 4096, mft = 4 * cluster, record_size = 1024;
constexpr std::uint64_t when = 133'540'000'000'000'000;

ByteVector resident(std::uint32_t type, Bytes value, const std::u16string& name = {}) {
    const auto value_at = (24 + name.size() * 2 + 7) / 8 * 8;
    ByteVector a((value_at + value.size() + 7) / 8 * 8);
    put_number(a, 0, type, 4);
    put_number(a, 4, a.size(), 4);
    a[9] = static_cast<std::uint8_t>(name.size());
    put_number(a, 10, 24, 2);
    for (std::size_t i = 0; i < name.size(); ++i) put_number(a, 24 + i * 2, name[i], 2);
    put_number(a, 16, value.size(), 4);
    put_number(a, 20, value_at, 2);
    std::copy(value.begin(), value.end(), a.begin() + static_cast<std::ptrdiff_t>(value_at));
    return a;
}

struct TestRun {
    std::int64_t step;  ///< to the LCN before; 0: sparse
    std::uint8_t count;
};

ByteVector non_resident(std::uint32_t type, const std::vector<TestRun>& runs, std::uint64_t size,
                        std::uint64_t valid, std::uint16_t flags = 0, std::uint64_t svcn = 0) {
    ByteVector list;
    std::uint64_t clusters = 0;
    for (const auto& r : runs) {
        list.push_back(r.step ? 0x21 : 0x01);
        list.push_back(r.count);
        if (r.step)
            list.push_back(static_cast<std::uint8_t>(r.step)),
                list.push_back(static_cast<std::uint8_t>(r.step >> 8));
        clusters += r.count;
    }
    list.push_back(0);
    ByteVector a((64 + list.size() + 7) / 8 * 8);
    put_number(a, 0, type, 4);
    put_number(a, 4, a.size(), 4);
    a[8] = 1;
    put_number(a, 12, flags, 2);
    put_number(a, 16, svcn, 8);
    put_number(a, 24, svcn + clusters - 1, 8);
    put_number(a, 32, 64, 2);
    a[34] = flags & 1 ? 4 : 0;
    put_number(a, 40, clusters * cluster, 8);
    put_number(a, 48, size, 8);
    put_number(a, 56, valid, 8);
    std::copy(list.begin(), list.end(), a.begin() + 64);
    return a;
}

ByteVector file_name(std::uint64_t parent, std::uint16_t sequence, const std::u16string& name,
                     std::uint8_t type = 1, std::uint32_t fa = 0x20) {
    ByteVector v(66 + name.size() * 2);
    put_number(v, 0, parent | std::uint64_t{sequence} << 48, 8);
    for (const std::size_t at : {8, 16, 24, 32}) put_number(v, at, when, 8);
    put_number(v, 56, fa, 4);
    v[64] = static_cast<std::uint8_t>(name.size());
    v[65] = type;
    for (std::size_t i = 0; i < name.size(); ++i) put_number(v, 66 + i * 2, name[i], 2);
    return v;
}

Bytes as_bytes(const std::string& s) {
    return {reinterpret_cast<const std::uint8_t*>(s.data()), s.size()};
}

class Image {
  public:
    Image() : bytes(test::ntfs_head()) {
        record(0, 1, 1, {non_resident(ATTR_DATA, {{4, 32}}, 32 * cluster, 32 * cluster)});
        record(5, 5, 3, {});
    }
    /// Writes record `n`. `flags`: 1 in use, 2 folder.
    void record(std::uint64_t n, std::uint16_t sequence, std::uint16_t flags,
                const std::vector<ByteVector>& attributes, std::uint64_t base = 0) {
        ByteVector r(record_size);
        std::memcpy(r.data(), "FILE", 4);
        put_number(r, 4, 48, 2);
        put_number(r, 6, 3, 2);
        put_number(r, 16, sequence, 2);
        put_number(r, 20, 56, 2);
        put_number(r, 22, flags, 2);
        put_number(r, 32, base, 8);
        put_number(r, 44, n, 4);
        std::size_t at = 56;
        for (const auto& a : attributes) {
            std::copy(a.begin(), a.end(), r.begin() + static_cast<std::ptrdiff_t>(at));
            at += a.size();
        }
        put_number(r, at, 0xFFFFFFFF, 4);
        put_number(r, 24, at + 8, 4);
        write(n, r);
    }
    /// Puts the fixups in and the record in its place.
    void write(std::uint64_t n, ByteVector r) {
        put_number(r, 48, 0x0505, 2);
        for (const std::size_t tail : {510, 1022}) {
            std::copy_n(r.begin() + static_cast<std::ptrdiff_t>(tail), 2,
                        r.begin() + static_cast<std::ptrdiff_t>(tail == 510 ? 50 : 52));
            put_number(r, tail, 0x0505, 2);
        }
        std::copy(r.begin(), r.end(), bytes.begin() + static_cast<std::ptrdiff_t>(place(n)));
    }
    std::size_t place(std::uint64_t n) const { return mft + n * record_size; }
    void fill(std::uint64_t lcn, const std::string& content) {
        std::copy(content.begin(), content.end(), bytes.begin() + static_cast<std::ptrdiff_t>(lcn * cluster));
    }

    static ByteVector times() {
        ByteVector v(48);
        for (const std::size_t at : {0, 8, 16, 24}) put_number(v, at, when, 8);
        return resident(ATTR_STD, v);
    }
    static ByteVector name(std::uint64_t parent, std::uint16_t sequence, const std::u16string& text,
                           std::uint8_t type = 1) {
        return resident(ATTR_NAME, file_name(parent, sequence, text, type));
    }

    ByteVector bytes;
};

test::Collector read(const ByteVector& bytes) {
    const auto source = test::memory_source(bytes);
    test::Collector out;
    Progress progress;
    const auto found = file_system().recognise(*source, 0);
    if (!found) return out;
    const auto reader = file_system().open(*source, found->volume, {});
    reader->read(out, progress);
    reader->remnants(out, progress);
    return out;
}

std::string content_of(const Image& image, const Entry& e) {
    const auto source = test::memory_source(image.bytes);
    ContentStream stream(*source, e.pieces, e.size);
    const auto b = stream.first(1 << 20);
    return {b.begin(), b.end()};
}

}  // namespace

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
    EXPECT_EQ(content_of(image, *seen.find("winter.txt")), "tiny play");
    EXPECT_EQ(seen.find("winter.txt")->parent, seen.find("Scripts")->key);
    const auto* summer = seen.find("summer.txt");
    ASSERT_TRUE(summer);
    EXPECT_EQ(summer->origin, Origin::deleted);
    EXPECT_EQ(summer->layout, Layout::known);
    EXPECT_EQ(content_of(image, *summer), text);
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
        EXPECT_EQ(content_of(image, e), "aside");
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
    EXPECT_EQ(content_of(image, *seen.find("sparse.bin")),
              std::string(100, 'x') + std::string(2 * cluster - 100, '\0'));
    EXPECT_EQ(content_of(image, *seen.find("packed.txt")), std::string(4096, 'a'));
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
    EXPECT_EQ(content_of(image, *seen.find("long.txt")), text);
    // Without its extension the rest is missing, and said to be.
    image.record(40, 6, 1, {Image::name(5, 5, u"other.txt"), resident(ATTR_DATA, as_bytes("x"))});
    seen = read(image.bytes);
    EXPECT_EQ(seen.find("long.txt")->pieces.back().kind, PieceKind::missing);
}

TEST(NtfsReader, ReadsNamesFromIndexLeftovers) {
    const auto index_entry = [](std::uint64_t ref, const ByteVector& name) {
        ByteVector e((16 + name.size() + 7) / 8 * 8);
        put_number(e, 0, ref, 8);
        put_number(e, 8, e.size(), 2);
        put_number(e, 10, name.size(), 2);
        std::copy(name.begin(), name.end(), e.begin() + 16);
        return e;
    };
    Image image;
    // A folder whose record has room behind its used part, and an index block with leftovers behind its used
    // part.
    image.record(30, 1, 3,
                 {Image::name(5, 5, u"Scripts"), non_resident(ATTR_ALLOC, {{650, 1}}, cluster, cluster)});
    auto& bytes = image.bytes;
    const auto name_at = image.place(30) + 56 + Image::name(5, 5, u"Scripts").size();
    bytes[name_at + 9] = 4;
    put_number(bytes, name_at + 10, 72, 2);
    const std::u16string index = u"$I30";
    for (std::size_t i = 0; i < 4; ++i) put_number(bytes, name_at + 72 + i * 2, index[i], 2);
    put_number(bytes, name_at + 4, 80, 4);
    put_number(bytes, name_at + 80, 0xFFFFFFFF, 4);
    put_number(bytes, image.place(30) + 24, name_at + 88 - image.place(30), 4);
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
