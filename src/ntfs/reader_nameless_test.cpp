#include <gtest/gtest.h>

#include <cstring>

#include "ntfs/reader.hpp"
#include "support/disk_image.hpp"
#include "support/fat_image.hpp"
#include "support/ntfs_image.hpp"

namespace undershelf::ntfs {

using namespace test::ntfs;
using test::put_number;

namespace {

constexpr std::uint64_t block_lcn = 650;
constexpr std::size_t used_part = 128;  ///< of the index block, from its start

/// A folder in record 30 with one index block, in which `leftovers` are after the used part.
Image with_leftovers(const ByteVector& leftovers) {
    Image image;
    image.record(30, 1, 3,
                 {Image::name(5, 5, u"Scripts"),
                  non_resident(ATTR_ALLOC, {{block_lcn, 1}}, cluster, cluster, 0, 0, u"$I30")});
    ByteVector block(cluster);
    std::memcpy(block.data(), "INDX", 4);
    put_number(block, 4, 40, 2);
    put_number(block, 6, 9, 2);
    put_number(block, 28, used_part - 24, 4);
    std::copy(leftovers.begin(), leftovers.end(), block.begin() + used_part);
    put_fixups(block, 40);
    image.put(block_lcn * cluster, block);
    return image;
}

ByteVector leftover(std::uint64_t record, std::uint16_t sequence, const std::u16string& name,
                    std::uint64_t changed = when, std::uint64_t size = 0) {
    auto n = file_name(30, 1, name);
    put_number(n, 24, changed, 8);
    put_number(n, 40, size, 8);
    put_number(n, 48, size, 8);
    return index_entry(record | std::uint64_t{sequence} << 48, n);
}

ByteVector operator+(ByteVector a, const ByteVector& b) {
    a.insert(a.end(), b.begin(), b.end());
    return a;
}
ByteVector without_first(const ByteVector& a, std::size_t n) {
    return {a.begin() + static_cast<std::ptrdiff_t>(n), a.end()};
}

const Entry& only(const test::Collector& seen, const std::string& name) {
    static const Entry none;
    EXPECT_TRUE(seen.find(name)) << name;
    return seen.find(name) ? *seen.find(name) : none;
}

/// As the Linux kernel's driver leaves the record of a deleted file: without name, its number not raised.
void put_nameless(Image& image, std::uint64_t n, const std::string& content, std::uint16_t sequence = 1) {
    image.record(n, sequence, 0, {Image::times(), resident(ATTR_DATA, as_bytes(content))});
}

const std::string png = "\x89PNG\r\n\x1a\n a picture of the prince";

}  // namespace

TEST(NtfsNameless, JoinsRecordAndLeftoverByReference) {
    auto image = with_leftovers(leftover(31, 1, u"winter.txt") + leftover(32, 1, u"summer.txt"));
    put_nameless(image, 31, "the winter play");
    const auto text = test::sample_text("summer", 5000);
    image.fill(600, text.substr(0, cluster));
    image.fill(610, text.substr(cluster));
    image.record(32, 1, 0,
                 {Image::times(), non_resident(ATTR_DATA, {{600, 1}, {10, 1}}, text.size(), text.size())});
    const auto seen = read(image.bytes);
    const auto& winter = only(seen, "winter.txt");
    EXPECT_EQ(winter.origin, Origin::deleted);
    EXPECT_EQ(winter.parent, only(seen, "Scripts").key);
    EXPECT_EQ(winter.name_certainty, NameCertainty::full);
    EXPECT_TRUE(test::has_fact(winter, Fact::from_index));
    EXPECT_EQ(content_of(image.bytes, winter), "the winter play");
    EXPECT_EQ(content_of(image.bytes, only(seen, "summer.txt")), text);
    EXPECT_FALSE(seen.find("folder-unknown"));
}

TEST(NtfsNameless, TakesTheNameThatWasSetLastAndKeepsTheOthers) {
    auto image = with_leftovers(
        leftover(31, 1, u"draft.txt", when) + leftover(31, 1, u"final.txt", when + 900) +
        leftover(31, 1, u"second draft.txt", when + 500) + leftover(31, 7, u"other life.txt", when + 999));
    put_nameless(image, 31, "the play");
    const auto seen = read(image.bytes);
    EXPECT_EQ(content_of(image.bytes, only(seen, "final.txt")), "the play");
    EXPECT_FALSE(seen.find("draft.txt") || seen.find("second draft.txt"));
    int old_names = 0;
    for (const auto& [key, e] : seen.late) {
        EXPECT_EQ(key, only(seen, "final.txt").key);
        old_names += e.fact == Fact::old_name;
    }
    EXPECT_EQ(old_names, 2);
    // A reference of another life means a file whose record was used again.
    EXPECT_EQ(only(seen, "other life.txt").layout, Layout::none);
}

TEST(NtfsNameless, ListsWhatNothingNamesByItsNumber) {
    Image image;
    put_nameless(image, 31, png);
    put_nameless(image, 33, "only words");
    put_nameless(image, 34, std::string("\1\2\0\3", 4));
    image.record(35, 1, 0, {Image::times(), resident(ATTR_DATA, {})});  // without content: not worth a line
    image.record(36, 1, 2, {Image::times()});                           // a folder without a name
    image.record(37, 2, 0,
                 {Image::times(), Image::name(36, 1, u"inside.txt"), resident(ATTR_DATA, as_bytes("x"))});
    const auto seen = read(image.bytes);
    EXPECT_EQ(content_of(image.bytes, only(seen, "record-31.png")), png);
    EXPECT_EQ(only(seen, "record-31.png").name_certainty, NameCertainty::made_up);
    EXPECT_EQ(only(seen, "record-31.png").parent, only(seen, "folder-unknown").key);
    EXPECT_EQ(only(seen, "record-34").size, 4u);
    EXPECT_TRUE(seen.find("record-33.txt"));
    EXPECT_FALSE(seen.find("record-35") || seen.find("record-36"));
    EXPECT_EQ(only(seen, "inside.txt").parent, (EntryKey{36, 0}));
}

TEST(NtfsNameless, JournalsNameRecords) {
    Image image;
    put_nameless(image, 31, "the play", 3);
    image.record(30, 1, 3, {Image::name(5, 5, u"Scripts")});
    image.put(700 * cluster, journal_record(2, 31 | 3ull << 48, 30 | 1ull << 48, u"told.txt", 0x200, when));
    image.record(50, 1, 1,
                 {Image::name(MFT_REC_EXTEND, 11, u"$UsnJrnl"),
                  non_resident(ATTR_DATA, {{700, 1}}, cluster, cluster, 0, 0, u"$J")});
    const auto seen = read(image.bytes);
    EXPECT_EQ(content_of(image.bytes, only(seen, "told.txt")), "the play");
    EXPECT_TRUE(only(seen, "told.txt").deleted);
    EXPECT_EQ(only(seen, "told.txt").parent, only(seen, "Scripts").key);
}

TEST(NtfsNameless, JoinsByDateAndSizeWhatHasLostTheReference) {
    // The end mark was written over the first 16 bytes: the reference is gone, all of the name is left.
    const auto cut = without_first(leftover(31, 1, u"winter.txt", when, 8), 16);
    auto image = with_leftovers(cut);
    put_nameless(image, 31, "the play");
    auto seen = read(image.bytes);
    EXPECT_EQ(content_of(image.bytes, only(seen, "winter.txt")), "the play");
    EXPECT_FALSE(seen.find("folder-unknown"));
    // Two records that could be meant: neither is.
    put_nameless(image, 32, "a poster");
    seen = read(image.bytes);
    EXPECT_EQ(only(seen, "winter.txt").layout, Layout::none);
    EXPECT_EQ(only(seen, "winter.txt").name_certainty, NameCertainty::fragment);
    EXPECT_TRUE(seen.find("record-31.txt") && seen.find("record-32.txt"));
}

TEST(NtfsNameless, ReadsNamesWhoseHeadWasWrittenOver) {
    const auto whole = leftover(900, 1, u"cue sheet 03.txt", when, 777);
    const auto end_mark = [] {
        ByteVector e(16);
        put_number(e, 8, 16, 2);
        put_number(e, 12, 2, 2);
        return e;
    }();
    for (const std::size_t cut : {16, 24, 32, 48, 56, 64, 72, 80}) {
        auto image = with_leftovers(without_first(whole, cut) + end_mark);
        const auto seen = read(image.bytes);
        const auto& e = only(seen, "cue sheet 03.txt");
        EXPECT_EQ(e.name_certainty, NameCertainty::fragment) << cut;
        EXPECT_EQ(e.parent, only(seen, "Scripts").key) << cut;
        EXPECT_EQ(e.created.has_value(), cut <= 24) << cut;
        EXPECT_EQ(e.modified.has_value(), cut <= 32) << cut;
        EXPECT_EQ(e.size, cut <= 64 ? 777u : 0u) << cut;
    }
    // With its length gone nothing is known of it; with no time left, something must be after it.
    EXPECT_FALSE(read(with_leftovers(without_first(whole, 88) + end_mark).bytes).find("cue sheet 03.txt"));
    EXPECT_FALSE(read(with_leftovers(without_first(whole, 64)).bytes).find("cue sheet 03.txt"));
}

TEST(NtfsNameless, FragmentsOfNamesThatAreThereAreNotToldAgain) {
    const auto cut = without_first(leftover(31, 1, u"winter.txt"), 32);
    auto image = with_leftovers(cut);
    image.record(31, 1, 1,
                 {Image::times(), Image::name(30, 1, u"winter.txt"), resident(ATTR_DATA, as_bytes("w"))});
    int told = 0;
    for (const auto& e : read(image.bytes).entries) told += e.name == "winter.txt";
    EXPECT_EQ(told, 1);
}

TEST(NtfsNameless, DatesFragmentsByTheirSeries) {
    const auto cut = without_first(leftover(900, 1, u"cue 03.txt"), 48);
    auto image = with_leftovers(cut + leftover(901, 1, u"cue 04.txt") + leftover(902, 1, u"cue 05.txt"));
    const auto seen = read(image.bytes);
    const auto& e = only(seen, "cue 03.txt");
    ASSERT_TRUE(e.modified);
    EXPECT_EQ(iso8601(*e.modified), "2024-03-04T04:26:40Z");
    EXPECT_TRUE(test::has_fact(e, Fact::date_argued));
}

TEST(NtfsNameless, AWholeLeftoverSaysItselfWhichFolderItStoodIn) {
    // Record 30 was the folder `Posters` once; entries of that life are still in what is `Scripts` now.
    auto old = file_name(40, 1, u"moved along.txt");
    auto image = with_leftovers(index_entry(900 | 1ull << 48, old));
    image.record(40, 1, 3, {Image::name(5, 5, u"Posters")});
    const auto seen = read(image.bytes);
    EXPECT_EQ(only(seen, "moved along.txt").parent, only(seen, "Posters").key);
}

TEST(NtfsOldNames, AreThoseOfTheFileItself) {
    // A format counts records anew: what a former volume's index says of a number is another file's.
    constexpr std::uint64_t another_day = when + 864'000'000'000;
    auto of_former = leftover(31, 1, u"former.txt");
    put_number(of_former, 16 + 8, another_day, 8);  // CreationTime of the $FILE_NAME
    auto in_a_file = leftover(31, 1, u"in no folder.txt");
    put_number(in_a_file, 16, 31 | 1ull << 48, 8);  // its folder is a file
    auto image = with_leftovers(leftover(31, 1, u"draft.txt") + of_former + in_a_file);
    image.record(31, 1, 1,
                 {Image::times(), Image::name(30, 1, u"final.txt"),
                  resident(ATTR_DATA, as_bytes(std::string("the play")))});
    const auto seen = read(image.bytes);
    std::vector<std::string> names;
    for (const auto& [key, e] : seen.late) {
        if (e.fact == Fact::old_name) names.push_back(e.text);
    }
    EXPECT_EQ(names, std::vector<std::string>{"Scripts/draft.txt"});
}

TEST(NtfsOldNames, OfAFileWhoseRecordWasUsedAgainAreTold) {
    auto other_birth = leftover(31, 7, u"of a former volume.txt");
    put_number(other_birth, 16 + 8, when + 864'000'000'000, 8);
    auto image = with_leftovers(leftover(31, 7, u"draft.txt") + leftover(31, 7, u"final.txt") + other_birth);
    image.record(31, 9, 1, {Image::times(), Image::name(30, 1, u"now.txt")});
    const auto seen = read(image.bytes);
    EXPECT_TRUE(seen.find("draft.txt"));
    EXPECT_FALSE(seen.find("final.txt"));
    std::vector<std::string> names;
    for (const auto& [key, e] : seen.late) {
        if (e.fact == Fact::old_name && key == only(seen, "draft.txt").key) names.push_back(e.text);
    }
    EXPECT_EQ(names, std::vector<std::string>{"Scripts/final.txt"});
}

}  // namespace undershelf::ntfs
