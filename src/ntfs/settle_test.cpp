#include "ntfs/settle.hpp"

#include <gtest/gtest.h>

#include "ntfs/file_system.hpp"
#include "ntfs/former.hpp"
#include "ntfs/structures.hpp"
#include "ntfs/traces.hpp"
#include "support/collector.hpp"
#include "support/disk_image.hpp"
#include "support/fat_image.hpp"
#include "support/memory_device.hpp"
#include "support/ntfs_image.hpp"
#include "support/traces.hpp"

namespace undershelf::ntfs {

namespace {

using namespace test::ntfs;

constexpr std::uint32_t largest = 2 << 20;
constexpr const char* picture = "\x89PNG\r\n\x1a\n and more of it";

/// A folder with pictures in clusters of their own, and a small text in its record.
Image volume() {
    Image image;
    image.record(30, 4, 3, {Image::times(), Image::name(5, 5, u"Posters")});
    for (std::uint64_t i = 0; i < 6; ++i) {
        image.record(31 + i, 1, i < 5 ? 1 : 0,
                     {Image::times(), Image::name(30, 4, u"poster " + std::u16string(1, u'a' + i) + u".png"),
                      non_resident(ATTR_DATA, {{static_cast<std::int64_t>(600 + 3 * i), 1}}, 3000, 3000)});
        image.fill(600 + 3 * i, picture + test::sample_text("poster", 2900));
    }
    image.record(40, 1, 1,
                 {Image::times(), Image::name(30, 4, u"note.txt"),
                  resident(ATTR_DATA, test::ntfs::as_bytes("tiny note"))});
    return image;
}

/// As a format leaves it: without its boot sector and first records.
ByteVector formatted(Image image) {
    std::fill_n(image.bytes.begin(), image.place(24), 0);
    return image.bytes;
}

}  // namespace

TEST(NtfsSettle, RecordsAndContentsAgreeOnAGeometry) {
    const auto bytes = formatted(volume());
    const auto source = test::memory_source(bytes);
    const test::Traces traces(file_system(), bytes);
    const auto found = test::settle(file_system(), *source, traces, test::something_over(bytes));
    ASSERT_EQ(found.size(), 1u);
    const auto& v = found[0].volume;
    EXPECT_EQ(v.state, VolumeState::former);
    EXPECT_EQ(v.offset, 0u);
    EXPECT_EQ(v.cluster_size, cluster);
    const auto seen = test::read_settled(file_system(), *source, v, traces);
    const auto* kept = seen.find("poster b.png");
    ASSERT_TRUE(kept);
    EXPECT_EQ(kept->origin, Origin::live);
    EXPECT_EQ(kept->layout, Layout::known);
    EXPECT_EQ(test::content_of(bytes, *kept).substr(0, 8), std::string(picture).substr(0, 8));
    EXPECT_EQ(kept->parent, seen.find("Posters")->key);
    EXPECT_EQ(seen.find("poster f.png")->origin, Origin::deleted);
    EXPECT_EQ(test::content_of(bytes, *seen.find("note.txt")), "tiny note");
}

TEST(NtfsSettle, WithNothingOverItTheVolumeIsPresent) {
    const auto bytes = formatted(volume());
    const auto source = test::memory_source(bytes);
    const test::Traces traces(file_system(), bytes);
    const auto found = test::settle(file_system(), *source, traces);
    ASSERT_EQ(found.size(), 1u);
    EXPECT_EQ(found[0].volume.state, VolumeState::present);
    EXPECT_EQ(
        test::read_settled(file_system(), *source, found[0].volume, traces).find("poster a.png")->origin,
        Origin::live);
}

TEST(NtfsSettle, RecordsOfNoGeometryKeepNamesAndSmallContents) {
    auto image = volume();
    // Every content has been written over by texts.
    for (std::uint64_t i = 0; i < 6; ++i) image.fill(600 + 3 * i, test::sample_text("over", 3000));
    const auto bytes = formatted(std::move(image));
    const auto source = test::memory_source(bytes);
    const test::Traces traces(file_system(), bytes);
    const auto found = test::settle(file_system(), *source, traces, test::something_over(bytes));
    ASSERT_EQ(found.size(), 1u);
    EXPECT_EQ(found[0].volume.cluster_size, 0u);
    const auto seen = test::read_settled(file_system(), *source, found[0].volume, traces);
    const auto* poster = seen.find("poster a.png");
    ASSERT_TRUE(poster);
    EXPECT_EQ(poster->layout, Layout::none);
    EXPECT_TRUE(poster->pieces.empty());
    EXPECT_EQ(test::content_of(bytes, *seen.find("note.txt")), "tiny note");
}

TEST(NtfsSettle, FolderIndexesNumberRecordsThatDoNotKnowTheirNumbers) {
    auto image = volume();
    std::vector<ByteVector> entries;
    ByteVector block(4096);
    std::memcpy(block.data(), "INDX", 4);
    std::size_t at = 24 + 40;
    for (std::uint64_t i = 0; i < 6; ++i) {
        const auto entry = index_entry((31 + i) | 1ull << 48,
                                       file_name(30, 4, u"poster " + std::u16string(1, u'a' + i) + u".png"));
        std::copy(entry.begin(), entry.end(), block.begin() + static_cast<std::ptrdiff_t>(at));
        at += entry.size();
    }
    test::put_number(block, 4, 40, 2);
    test::put_number(block, 6, 9, 2);
    test::put_number(block, 24, 40, 4);
    test::put_number(block, 28, at - 24, 4);
    put_fixups(block, 40);
    image.put(700 * cluster, block);
    auto bytes = formatted(std::move(image));
    // Records of the older form have the array of fixups where the number is in later ones.
    for (std::uint64_t n = 30; n <= 40; ++n) {
        const auto place = mft + n * record_size;
        if (std::memcmp(bytes.data() + place, "FILE", 4) != 0) continue;
        std::copy_n(bytes.begin() + static_cast<std::ptrdiff_t>(place + 48), 6,
                    bytes.begin() + static_cast<std::ptrdiff_t>(place + 42));
        test::put_number(bytes, place + 4, 42, 2);
    }
    const auto source = test::memory_source(bytes);
    const test::Traces traces(file_system(), bytes);
    std::size_t numbered = 0;
    traces.visit_all(record_trace, [&](const Trace& t) {
        numbered += t.a != no_own_number;
        return true;
    });
    EXPECT_EQ(numbered, 0u);
    const auto found = test::settle(file_system(), *source, traces, test::something_over(bytes));
    ASSERT_EQ(found.size(), 1u);
    EXPECT_EQ(found[0].volume.cluster_size, cluster);
    const auto seen = test::read_settled(file_system(), *source, found[0].volume, traces);
    ASSERT_TRUE(seen.find("poster c.png"));
    EXPECT_EQ(seen.find("poster c.png")->layout, Layout::known);
    EXPECT_EQ(seen.find("poster c.png")->parent, seen.find("Posters")->key);
}

TEST(NtfsSettle, TakesAGeometryThatIsTold) {
    const auto bytes = formatted(volume());
    const auto source = test::memory_source(bytes);
    const test::Traces traces(file_system(), bytes);
    const RangeSet taken;
    const Settling settling{*source, traces, {}, {}, taken, {}};
    for (const std::uint32_t size : {512u, 4096u, largest}) {
        const auto v = as_told({0, "NTFS", size, {}}, settling).volume;
        EXPECT_EQ(v.cluster_size, size);
        EXPECT_EQ(v.size, bytes.size() / size * size);
        EXPECT_EQ(v.state, VolumeState::former);
        EXPECT_EQ(v.found_by, "told");
    }
    const auto told = test::read_settled(
        file_system(), *source,
        as_told({0, "NTFS", static_cast<std::uint32_t>(cluster), {}}, settling).volume, traces);
    ASSERT_TRUE(told.find("poster b.png"));
    EXPECT_EQ(test::content_of(bytes, *told.find("poster b.png")).substr(0, 8),
              std::string(picture).substr(0, 8));
    for (const std::uint32_t size : {256u, 3000u, 2 * largest})
        EXPECT_THROW(as_told({0, "NTFS", size, {}}, settling), Error) << size;
    EXPECT_THROW(as_told({0, "NTFS", {}, {}}, settling), Error);
    // No record is after this.
    EXPECT_THROW(as_told({bytes.size() - 4096, "NTFS", 4096u, {}}, settling), Error);
}

}  // namespace undershelf::ntfs
