#include "exfat/settle.hpp"

#include <gtest/gtest.h>

#include "exfat/file_system.hpp"
#include "exfat/traces.hpp"
#include "support/collector.hpp"
#include "support/exfat_image.hpp"
#include "support/fat_image.hpp"
#include "support/memory_device.hpp"
#include "support/traces.hpp"
#include "volume/budget.hpp"

namespace undershelf::exfat {

namespace {

using namespace test::exfat;
using test::put_number;

constexpr Cluster scripts = 20, acts = 40, posters = 60;

Image card() {
    Image image;
    image.add(root, {.name = u"scripts", .start = scripts, .size = cluster_size, .folder = true});
    image.add(root, {.name = u"posters", .start = posters, .size = cluster_size, .folder = true});
    image.add(scripts, {.name = u"acts", .start = acts, .size = cluster_size, .folder = true});
    Cluster at = 100;
    for (const auto folder : {scripts, acts, posters}) {
        for (int i = 0; i < 3; ++i, ++at) {
            image.add(folder, {.name = u"cue" + std::u16string(1, static_cast<char16_t>(u'0' + i)) + u".txt",
                               .start = at,
                               .size = 900});
            image.fill(at, test::sample_text("cue", 900));
        }
    }
    return image;
}

/// A folder of which one cluster is left, with packed files, one in each cluster that follows, and of a
/// folder that it names nothing: whichever grid is tried, a packed file begins at every cluster.
Image packed_card() {
    Image image;
    for (Cluster c = 50; c < 900; ++c)
        image.fill(c, std::string("\x1f\x8b\x08\x00\x00\x00\x00\x00\x00\x03", 10));
    std::fill_n(image.bytes.begin() + static_cast<std::ptrdiff_t>(image.place(acts)), cluster_size, 0);
    for (int i = 0; i < 30; ++i)
        image.add(acts, {.name = u"cue" + std::u16string(1, static_cast<char16_t>(u'a' + i)) + u".gz",
                         .start = static_cast<Cluster>(100 + i),
                         .size = 700});
    image.add(acts, {.name = u"emptied", .start = 77, .size = cluster_size, .folder = true});
    std::fill_n(image.bytes.begin(), image.place(root) + cluster_size, 0);
    return image;
}

/// The volume as one that is present.
PresentLife present_volume(const Image& image) {
    PresentLife life;
    life.volume.family = "exFAT";
    life.volume.size = image.bytes.size();
    life.volume.grid_start = heap;
    life.volume.cluster_size = cluster_size;
    return life;
}

}  // namespace

TEST(ExfatSettle, WhatEveryGridExplainsSpeaksForNone) {
    const auto image = packed_card();
    const auto source = test::memory_source(image.bytes);
    const test::Traces traces(file_system(), image.bytes);
    const auto found = test::settle(file_system(), *source, traces);
    ASSERT_EQ(found.size(), 1u);
    EXPECT_NE(found[0].volume.found_by.find("nothing tells the geometry"), std::string::npos)
        << found[0].volume.found_by << ", " << found[0].volume.grid_start;
}

TEST(ExfatSettle, WhatThePresentVolumeExplainsIsItsOwn) {
    auto image = packed_card();
    // Where the named folder should be by another grid there is one.
    std::copy_n(image.bytes.begin() + static_cast<std::ptrdiff_t>(image.place(acts)), cluster_size,
                image.bytes.begin() + static_cast<std::ptrdiff_t>(image.place(77 + 30)));
    const auto source = test::memory_source(image.bytes);
    const test::Traces traces(file_system(), image.bytes);
    auto life = present_volume(image);
    life.oldest = 1;  // older than all sets
    EXPECT_TRUE(test::settle(file_system(), *source, traces, {life}).empty());
    // A large one's reader has not looked everywhere: it is told what the sweep found.
    EXPECT_EQ(file_system().lost_folders(*source, life, traces, {}),
              (std::vector<std::uint64_t>{image.place(acts), image.place(77 + 30)}));
    life.oldest = std::numeric_limits<std::int64_t>::max();
    EXPECT_TRUE(file_system().lost_folders(*source, life, traces, {}).empty()) << "all is older";
    life.oldest = 1;
    life.volume.size = 2 * bound::search_bytes;
    EXPECT_TRUE(test::settle(file_system(), *source, traces, {life}).empty());
}

TEST(ExfatSettle, NamedFoldersAndFoundOnesAgreeOnAGrid) {
    auto image = card();
    std::fill_n(image.bytes.begin(), image.place(root) + cluster_size, 0);
    const auto source = test::memory_source(image.bytes);
    const test::Traces traces(file_system(), image.bytes);
    const auto found = test::settle(file_system(), *source, traces);
    ASSERT_EQ(found.size(), 1u);
    const auto& v = found[0].volume;
    EXPECT_EQ(v.state, VolumeState::former);
    EXPECT_EQ(v.cluster_size, cluster_size);
    EXPECT_EQ(v.grid_start, heap);
    const auto seen = test::read_settled(file_system(), *source, v, traces);
    EXPECT_TRUE(seen.find("acts"));
    EXPECT_TRUE(seen.find("folder-20"));
    EXPECT_EQ(std::count_if(seen.entries.begin(), seen.entries.end(),
                            [](const Entry& e) { return e.name == "cue1.txt" && e.layout == Layout::known; }),
              3);
}

TEST(ExfatSettle, AVolumeWithoutABootRegionIsPresentByItsRoot) {
    auto image = card();
    // Bitmap in cluster 2, an up-case table in 3: as formatters write them.
    const auto entry = image.place(root);
    ByteVector entries(64);
    entries[0] = type_bitmap;
    put_number(entries, 20, 2, 4);
    put_number(entries, 24, 125, 8);
    entries[32] = type_up_case;
    put_number(entries, 32 + 20, 3, 4);
    put_number(entries, 32 + 24, 128, 8);
    std::copy(entries.begin(), entries.end(), image.bytes.begin() + static_cast<std::ptrdiff_t>(entry));
    for (std::size_t i = 0; i < 64; ++i) put_number(image.bytes, image.place(3) + 2 * i, i, 2);
    for (const Cluster c : {2u, 3u, 4u}) image.use(c);
    image.chain({2});
    put_number(image.bytes, 24 * 512, 0xFFFFFFF8, 4);
    put_number(image.bytes, 24 * 512 + 4, 0xFFFFFFFF, 4);
    std::fill_n(image.bytes.begin(), 24 * 512, 0);
    ByteVector disk((1 << 20) - 24 * 512);
    disk.insert(disk.end(), image.bytes.begin() + 24 * 512, image.bytes.end());
    // The FAT is at a whole MiB now, and so its volume began a MiB before.
    const auto source = test::memory_source(disk);
    const test::Traces traces(file_system(), disk);
    EXPECT_EQ(traces.count(root_trace), 1u);
    EXPECT_EQ(traces.count(up_case_trace), 1u);
    const auto found = test::settle(file_system(), *source, traces);
    ASSERT_EQ(found.size(), 1u);
    const auto& v = found[0].volume;
    EXPECT_EQ(v.state, VolumeState::present);
    EXPECT_EQ(v.found_by, "root folder and up-case table");
    EXPECT_EQ(v.cluster_size, cluster_size);
    const auto seen = test::read_settled(file_system(), *source, v, traces);
    const auto* posters_folder = seen.find("posters");
    ASSERT_TRUE(posters_folder);
    EXPECT_EQ(posters_folder->origin, Origin::live);
}

TEST(ExfatSettle, OldSetsInAPresentGridAreTheFormerVolumes) {
    auto image = card();
    const auto source = test::memory_source(image.bytes);
    const test::Traces traces(file_system(), image.bytes);
    auto life = present_volume(image);
    auto found = test::settle(file_system(), *source, traces, {life});
    ASSERT_EQ(found.size(), 1u);
    EXPECT_NE(found[0].volume.found_by.find("older"), std::string::npos);
    const RangeSet all({{0, image.bytes.size()}});
    EXPECT_TRUE(test::settle(file_system(), *source, traces, {life}, {}, all).empty());
}

}  // namespace undershelf::exfat
