#include "ntfs/log_file.hpp"

#include <gtest/gtest.h>

#include <cstring>

#include "ntfs/structures.hpp"
#include "support/disk_image.hpp"
#include "support/ntfs_image.hpp"

namespace undershelf::ntfs {

using namespace test::ntfs;
using test::put_number;

namespace {

/// Pages of a log, 4096 bytes each: two restart pages, then record pages filled with `bytes` one after the
/// other, with their fixups.
ByteVector log_with(const ByteVector& bytes) {
    constexpr std::size_t page = 4096, head = 64;
    ByteVector out;
    for (int i = 0; i < 2; ++i) {
        ByteVector restart(page);
        std::memcpy(restart.data(), "RSTR", 4);
        put_number(restart, 4, 30, 2);
        put_number(restart, 6, 9, 2);
        put_number(restart, 16, page, 4);
        put_number(restart, 20, page, 4);
        put_fixups(restart, 30);
        out.insert(out.end(), restart.begin(), restart.end());
    }
    for (std::size_t at = 0; at < bytes.size(); at += page - head) {
        ByteVector record(page);
        std::memcpy(record.data(), "RCRD", 4);
        put_number(record, 4, 40, 2);
        put_number(record, 6, 9, 2);
        std::copy_n(bytes.begin() + static_cast<std::ptrdiff_t>(at), std::min(page - head, bytes.size() - at),
                    record.begin() + head);
        put_fixups(record, 40);
        out.insert(out.end(), record.begin(), record.end());
    }
    return out;
}

void put_log(Image& image, const ByteVector& bytes) {
    const auto log = log_with(bytes);
    image.put(720 * cluster, log);
    const auto count = static_cast<std::uint8_t>(log.size() / cluster);
    image.record(
        2, 2, 1,
        {Image::name(5, 5, u"$LogFile"), non_resident(ATTR_DATA, {{720, count}}, log.size(), log.size())});
}

}  // namespace

TEST(NtfsLog, NamesFilesFromIndexEntriesAndRecordImages) {
    Image image;
    image.record(30, 1, 3, {Image::times(), Image::name(5, 5, u"Scripts")});
    image.record(31, 7, 1, {Image::times(), Image::name(5, 5, u"now.txt")});
    ByteVector bytes(3968);  // so that the entry crosses from one page to the next
    const auto entry = index_entry(31 | 6ull << 48, file_name(30, 1, u"before.txt"));
    bytes.insert(bytes.end(), entry.begin(), entry.end());
    bytes.resize(5000);
    const auto record = plain_record(31, 5, 1, {Image::times(), Image::name(30, 1, u"long before.txt")});
    bytes.insert(bytes.end(), record.begin(), record.end());
    put_log(image, bytes);
    const auto seen = read(image.bytes);
    for (const char* name : {"before.txt", "long before.txt"}) {
        ASSERT_TRUE(seen.find(name)) << name;
        EXPECT_EQ(seen.find(name)->origin, Origin::deleted);
        EXPECT_EQ(seen.find(name)->layout, Layout::none);
        EXPECT_EQ(seen.find(name)->parent, seen.find("Scripts")->key);
        EXPECT_EQ(iso8601(*seen.find(name)->created), "2024-03-04T04:26:40Z");
    }
}

TEST(NtfsLog, RecordImagesOfTheOlderFormDoNotKnowTheirNumber) {
    Image image;
    image.record(31, 7, 1, {Image::times(), Image::name(5, 5, u"now.txt")});
    auto record = plain_record(31, 5, 1, {Image::times(), Image::name(5, 5, u"long before.txt")});
    put_log(image, record);
    EXPECT_TRUE(read(image.bytes).find("long before.txt"));
    put_number(record, 4, 0x2A, 2);  // the update sequence array is where the number would be
    put_log(image, record);
    EXPECT_FALSE(read(image.bytes).find("long before.txt"));
}

TEST(NtfsLog, OldNameOfALiveFileIsEvidenceOnIt) {
    Image image;
    image.record(31, 7, 1, {Image::times(), Image::name(5, 5, u"now.txt")});
    put_log(image, index_entry(31 | 7ull << 48, file_name(5, 5, u"draft.txt")));
    const auto seen = read(image.bytes);
    EXPECT_FALSE(seen.find("draft.txt"));
    ASSERT_TRUE(test::has_fact(*seen.find("now.txt"), Fact::old_name));
}

TEST(NtfsLog, ReadsNoNamesOutOfDamage) {
    Image image;
    image.record(31, 7, 1, {Image::times(), Image::name(5, 5, u"now.txt")});
    auto entry = index_entry(31 | 6ull << 48, file_name(5, 5, u"before.txt"));
    for (const std::size_t at : {10u, 24u + 7, 32u + 7, 80u}) {  // key size, two times, length of the name
        auto bad = entry;
        bad[at] ^= 0x7F;
        put_log(image, bad);
        EXPECT_FALSE(read(image.bytes).find("before.txt")) << at;
    }
}

}  // namespace undershelf::ntfs
