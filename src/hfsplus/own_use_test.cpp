#include "hfsplus/own_use.hpp"

#include <gtest/gtest.h>

#include "hfsplus/file_system.hpp"
#include "hfsplus/structures.hpp"
#include "support/disk_image.hpp"
#include "support/hfsplus_image.hpp"
#include "support/memory_device.hpp"

namespace undershelf::hfsplus {

namespace {

using namespace test::hfsplus;
using test::put_number;

constexpr std::size_t head = 1024;  ///< of the volume header; its fields are in TN1150

/// The journal's place in the volume, and where that is noted (TN1150, JournalInfoBlock).
struct Journal {
    std::size_t info = 0;
    std::uint64_t offset = 0, size = 0;
};
Journal journal_of(const Image& image) {
    Journal out;
    out.info = load<boost::endian::big_uint32_buf_t>(image.bytes, head + 12)->value() * block;
    const auto noted = *load<JournalInfoBlock>(image.bytes, out.info);
    out.offset = noted.offset.value();
    out.size = noted.size.value();
    return out;
}

/// Of the volume at this place in a source.
struct Use {
    RangeSet ranges;
    std::uint32_t made = 0;
    std::vector<ByteRange> free_samples;
};
Use use_of(const Image& image, std::size_t at) {
    ByteVector disk(at);
    disk.insert(disk.end(), image.bytes.begin(), image.bytes.end());
    const auto source = test::memory_source(disk);
    const auto found = file_system().recognise(*source, at);
    if (!found) return {};
    return {own_use(*source, found->volume), made_at(*source, found->volume),
            file_system().space(*source, found->volume)->free_samples};
}

}  // namespace

TEST(HfsPlusOwnUse, IsItsTreesNodesAndItsJournal) {
    for (const std::size_t at : {0u, 1u << 20}) {
        const Image plain;
        const auto without = use_of(plain, at);
        for (const auto tree : {Image::extents, Image::catalogue, Image::attributes}) {
            EXPECT_TRUE(without.ranges.contains(at + plain.place(tree)));  // its header node
            EXPECT_FALSE(without.ranges.contains(at + plain.place(tree, 7)));
        }
        EXPECT_EQ(without.made, when);
        const Image image(true);
        const auto journal = journal_of(image);
        ASSERT_GT(journal.size, 0u);
        EXPECT_FALSE(without.ranges.contains(at + journal.offset));
        const auto with = use_of(image, at);
        const ByteRange range{at + journal.offset, journal.size};
        EXPECT_EQ(total_length(with.ranges.within(range)), journal.size);
        EXPECT_EQ(total_length(with.ranges.ranges()), total_length(without.ranges.ranges()) + journal.size);
    }
}

TEST(HfsPlusOwnUse, AJournalIsWithinItsVolume) {
    Image image(true);
    const auto journal = journal_of(image);
    put_number(image.bytes, journal.info + 44, ~0ull, 8, true);  // size
    const auto rest = image.bytes.size() - journal.offset;
    EXPECT_EQ(total_length(use_of(image, block).ranges.within({block + journal.offset, ~0ull - (1 << 20)})),
              rest);
    put_number(image.bytes, journal.info + 36, image.bytes.size(), 8, true);  // offset
    EXPECT_TRUE(use_of(image, block).ranges.within({block + image.bytes.size(), 1 << 30}).empty());
}

TEST(HfsPlusOwnUse, AJournalElsewhereTakesNothingHere) {
    const auto without = use_of(Image(), block).ranges.ranges();
    Image image(true);
    const auto journal = journal_of(image);
    ASSERT_NE(use_of(image, block).ranges.ranges(), without);
    put_number(image.bytes, journal.info, 2, 4, true);  // flags: kJIJournalOnOtherDeviceMask
    EXPECT_EQ(use_of(image, block).ranges.ranges(), without);
}

TEST(HfsPlusSpace, SamplesAreOfItsFreeBlocks) {
    for (const std::size_t at : {0u, 1u << 20}) {
        const Image image;
        const auto samples = use_of(image, at).free_samples;
        ASSERT_FALSE(samples.empty());
        // The first 64 blocks are in use.
        EXPECT_GE(samples.front().offset, at + 64 * block);
        EXPECT_LE(samples.back().end(), at + image.bytes.size());
        for (std::size_t i = 1; i < samples.size(); ++i) EXPECT_LE(samples[i - 1].end(), samples[i].offset);
        for (const auto& sample : samples) EXPECT_EQ(sample.length, block);
    }
}

}  // namespace undershelf::hfsplus
