// What volumes leave behind when they are made smaller, and when drivers take attributes out of records.

#include "ntfs/own_leftovers.hpp"

#include <gtest/gtest.h>

#include <cstring>

#include "ntfs/file_system.hpp"
#include "ntfs/traces.hpp"
#include "support/attacked_card.hpp"
#include "support/collector.hpp"
#include "support/disk_image.hpp"
#include "support/memory_device.hpp"
#include "support/ntfs_image.hpp"
#include "support/traces.hpp"

namespace undershelf::ntfs {

namespace {
using namespace test::ntfs;

constexpr std::size_t volume_end = 4 << 20;  ///< of the image, as it is made

/// An index block of these entries.
ByteVector index_block(const std::vector<ByteVector>& entries) {
    ByteVector block(cluster);
    std::memcpy(block.data(), "INDX", 4);
    test::put_number(block, 4, 40, 2);
    test::put_number(block, 6, 9, 2);
    test::put_number(block, 24, 40, 4);
    test::put_number(block, 28, 0x400, 4);
    auto at = block.begin() + 64;
    for (const auto& e : entries) at = std::copy(e.begin(), e.end(), at);
    put_fixups(block, 40);
    return block;
}

/// A volume with a folder, on a source of twice its size.
struct Shrunk {
    Shrunk() {
        image.record(30, 4, 3, {Image::times(), Image::name(5, 5, u"Posters")});
        image.record(31, 1, 1,
                     {Image::times(), Image::name(30, 4, u"cue.txt"), resident(ATTR_DATA, as_bytes("cue"))});
        image.bytes.resize(2 * volume_end);
    }
    std::vector<Recognition> settled() {
        source = test::memory_source(image.bytes);
        const test::Traces traces(file_system(), Bytes(image.bytes).subspan(0));
        test::Traces beyond;
        for (const auto& t : traces.all) {
            if (t.offset >= volume_end) beyond.all.push_back(t);
        }
        PresentLife life;
        life.volume = file_system().recognise(*source, 0)->volume;
        return test::settle(file_system(), *source, beyond, {life});
    }
    Image image;
    std::unique_ptr<Source> source;
};
}  // namespace

TEST(NtfsShrunk, LostFilesAreReadAfterTheEndAndLiveOnesAreNot) {
    Shrunk shrunk;
    auto& image = shrunk.image;
    const auto far = static_cast<std::int64_t>(volume_end / cluster + 10);
    for (std::uint64_t n = 40; n < 42; ++n)
        image.record(n, 2, n == 41,
                     {Image::times(), Image::name(30, 4, n == 41 ? u"live.txt" : u"lost.txt"),
                      non_resident(ATTR_DATA, {{far, 1}}, 3000, 3000)});
    image.fill(static_cast<std::uint64_t>(far), test::sample_text("poster", 3000));
    const auto seen = read(image.bytes);
    ASSERT_TRUE(seen.find("lost.txt") && seen.find("live.txt"));
    EXPECT_EQ(content_of(image.bytes, *seen.find("lost.txt")), test::sample_text("poster", 3000));
    EXPECT_TRUE(test::has_fact(*seen.find("lost.txt"), Fact::beyond_volume));
    EXPECT_EQ(seen.find("live.txt")->pieces.back().kind, PieceKind::missing);
    // Where the source ends nothing can be read.
    image.bytes.resize(volume_end);
    EXPECT_EQ(read(image.bytes).find("lost.txt")->pieces.back().kind, PieceKind::missing);
}

TEST(NtfsShrunk, WhatIsLeftAfterTheEndMakesNoFormerVolume) {
    Shrunk shrunk;
    auto& bytes = shrunk.image.bytes;
    // Copies of its own records, a block that names one of its files, and one that names what was in its
    // folder.
    std::copy_n(bytes.begin() + static_cast<std::ptrdiff_t>(shrunk.image.place(30)), 2 * record_size,
                bytes.begin() + volume_end);
    shrunk.image.put(volume_end + cluster,
                     index_block({index_entry(31 | 1ull << 48, file_name(9, 9, u"cue.txt"))}));
    for (std::size_t i = 2; i < 6; ++i)
        shrunk.image.put(volume_end + i * cluster,
                         index_block({index_entry(900 | 1ull << 48, file_name(30, 3, u"no.txt")),
                                      index_entry(900 | 1ull << 48, file_name(30, 4, u"gone.txt"))}));
    EXPECT_TRUE(shrunk.settled().empty());
}

TEST(NtfsShrunk, WhatAnotherVolumeLeftThereDoes) {
    Shrunk shrunk;
    for (std::size_t i = 0; i < 3; ++i)
        shrunk.image.put(volume_end + i * cluster,
                         index_block({index_entry(900 | 1ull << 48, file_name(70, 1, u"other.txt"))}));
    EXPECT_EQ(shrunk.settled().size(), 1u);
}

TEST(NtfsReader, FindsNamesThatWereTakenOutOfFreedRecords) {
    Image image;
    ByteVector list(32);
    test::put_number(list, 0, ATTR_NAME, 4);
    test::put_number(list, 4, 32, 2);
    test::put_number(list, 16, 40 | 4ull << 48, 8);
    image.record(30, 5, 2, {Image::times(), resident(ATTR_LIST, list), resident(ATTR_ROOT, ByteVector(32))});
    // What the driver does: the end mark goes over the attribute's head, and the used part ends there.
    auto extension = plain_record(40, 5, 0, {Image::name(5, 5, u"Summer season")}, 30 | 4ull << 48);
    test::put_number(extension, 56, 0xFFFFFFFF, 8);
    test::put_number(extension, 24, 64, 4);
    image.write(40, extension);
    const auto seen = read(image.bytes);
    ASSERT_TRUE(seen.find("Summer season"));
    EXPECT_TRUE(seen.find("Summer season")->is_dir);
    EXPECT_EQ(seen.find("Summer season")->name_certainty, NameCertainty::full);
    // A name that was given at another time is another file's.
    extension[56 + 24 + 8] ^= 0x40, extension[56 + 24 + 11] ^= 1;
    image.write(40, extension);
    EXPECT_FALSE(read(image.bytes).find("Summer season"));
}

}  // namespace undershelf::ntfs
