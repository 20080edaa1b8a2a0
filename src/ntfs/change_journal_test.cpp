#include "ntfs/change_journal.hpp"

#include <gtest/gtest.h>

#include <random>

#include "ntfs/structures.hpp"
#include "support/disk_image.hpp"
#include "support/ntfs_image.hpp"

namespace undershelf::ntfs {

using namespace test::ntfs;

namespace {
constexpr std::uint64_t year_later = when + 315'360'000'000'000;

ByteVector joined(const std::vector<ByteVector>& parts) {
    ByteVector out;
    for (const auto& p : parts) out.insert(out.end(), p.begin(), p.end());
    return out;
}

std::vector<Mention> mentions_in(Bytes bytes) {
    std::vector<Mention> out;
    read_journal_records(bytes, 0, [&](Mention&& m) { out.push_back(std::move(m)); });
    return out;
}

/// Puts a change journal into record 50: a hole, then `records` in cluster 700.
void put_journal(Image& image, const ByteVector& records) {
    image.put(700 * cluster, records);
    image.record(50, 1, 1,
                 {Image::times(), Image::name(MFT_REC_EXTEND, 11, u"$UsnJrnl"),
                  non_resident(ATTR_DATA, {{0, 4}, {700, 1}}, 5 * cluster, 5 * cluster, 0, 0, u"$J")});
}
}  // namespace

TEST(NtfsChangeJournal, ReadsBothRecordVersions) {
    auto bytes = joined(
        {journal_record(2, 40 | 3ull << 48, 30 | 1ull << 48, u"old.txt", USN_REASON_RENAME_OLD_NAME, when),
         ByteVector(64), journal_record(4, 0, 0, u"xx", 0, when),
         journal_record(3, 41 | 1ull << 48, 5 | 5ull << 48, u"Gone", USN_REASON_FILE_DELETE, when,
                        FILE_ATTRIBUTE_DIRECTORY)});
    const auto seen = mentions_in(bytes);
    ASSERT_EQ(seen.size(), 2u);
    EXPECT_EQ(seen[0].what, Mention::What::renamed);
    EXPECT_EQ(seen[0].file, (Reference{40, 3}));
    EXPECT_EQ(seen[0].folder, (Reference{30, 1}));
    EXPECT_EQ(seen[0].name, u"old.txt");
    EXPECT_EQ(seen[1].what, Mention::What::deleted);
    EXPECT_EQ(seen[1].file, (Reference{41, 1}));
    EXPECT_TRUE(seen[1].is_dir);
    EXPECT_EQ(iso8601(*seen[1].when), "2024-03-04T04:26:40Z");
}

TEST(NtfsChangeJournal, StepsOverLies) {
    const auto good = journal_record(2, 40, 30, u"good.txt", 0, when);
    for (const std::size_t at : {0u, 4u, 56u, 58u}) {
        auto bad = journal_record(2, 41, 30, u"bad.txt", 0, when);
        bad[at] = 0xFF;
        bad[at + 1] = 0xFF;
        const auto seen = mentions_in(joined({bad, good}));
        ASSERT_EQ(seen.size(), 1u) << at;
        EXPECT_EQ(seen[0].name, u"good.txt");
    }
    std::mt19937 random(7);
    ByteVector noise(64 << 10);
    for (auto& b : noise) b = static_cast<std::uint8_t>(random());
    mentions_in(noise);
}

TEST(NtfsChangeJournal, DatesDeletionsAndTellsOldNames) {
    Image image;
    image.record(30, 1, 3, {Image::times(), Image::name(5, 5, u"Scripts")});
    image.record(31, 1, 1, {Image::times(), Image::name(30, 1, u"final.txt")});
    image.record(32, 5, 0, {Image::times(), Image::name(30, 1, u"gone.txt")});
    put_journal(image,
                joined({journal_record(2, 31 | 1ull << 48, 30 | 1ull << 48, u"draft.txt",
                                       USN_REASON_RENAME_OLD_NAME, when),
                        journal_record(2, 31 | 1ull << 48, 30 | 1ull << 48, u"final.txt", 0x2000, when),
                        journal_record(2, 32 | 4ull << 48, 30 | 1ull << 48, u"gone.txt",
                                       USN_REASON_FILE_DELETE, year_later)}));
    const auto seen = read(image.bytes);
    ASSERT_TRUE(seen.find("gone.txt") && seen.find("gone.txt")->deleted);
    EXPECT_EQ(iso8601(*seen.find("gone.txt")->deleted), "2025-03-04T04:26:40Z");
    const auto* final = seen.find("final.txt");
    ASSERT_TRUE(final && test::has_fact(*final, Fact::old_name));
    for (const auto& e : final->evidence) {
        if (e.fact == Fact::old_name) {
            EXPECT_EQ(e.text, "Scripts/draft.txt");
        }
    }
    EXPECT_FALSE(final->deleted);
    EXPECT_FALSE(seen.find("draft.txt"));
    EXPECT_TRUE(seen.find("$UsnJrnl")->system);
}

TEST(NtfsChangeJournal, NamesLostFoldersAndFilesWhoseRecordIsUsedAgain) {
    Image image;
    // Record 30 was the folder "Posters" in its first life, and so was 31 a file; both are other files now.
    image.record(30, 2, 1, {Image::times(), Image::name(5, 5, u"new.txt")});
    image.record(31, 2, 1, {Image::times(), Image::name(5, 5, u"newer.txt")});
    image.record(32, 2, 0,
                 {Image::times(), Image::name(30, 1, u"winter.png"), resident(ATTR_DATA, as_bytes("w"))});
    put_journal(image, joined({journal_record(2, 30 | 1ull << 48, 5 | 5ull << 48, u"Posters", 0x100, when,
                                              FILE_ATTRIBUTE_DIRECTORY),
                               journal_record(2, 31 | 1ull << 48, 30 | 1ull << 48, u"summer.png",
                                              USN_REASON_FILE_DELETE, year_later)}));
    const auto seen = read(image.bytes);
    const auto *posters = seen.find("Posters"), *winter = seen.find("winter.png"),
               *summer = seen.find("summer.png");
    ASSERT_TRUE(posters && winter && summer);
    EXPECT_TRUE(posters->is_dir);
    EXPECT_EQ(posters->parent, root_key);
    EXPECT_EQ(winter->parent, posters->key);
    EXPECT_EQ(summer->parent, posters->key);
    EXPECT_EQ(summer->layout, Layout::none);
    EXPECT_TRUE(summer->deleted);
}

}  // namespace undershelf::ntfs
