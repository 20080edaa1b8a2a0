#include "content/media/matroska_blocks.hpp"

#include <gtest/gtest.h>

#include "content/format.hpp"
#include "content/formats.hpp"
#include "support/file_parts.hpp"
#include "support/memory_content.hpp"

namespace undershelf::content {

namespace {

using Sizes = std::vector<std::uint64_t>;

std::optional<Lacing> lacing(std::uint8_t flags, std::initializer_list<std::uint8_t> behind,
                             std::uint64_t size) {
    ByteVector start{0x81, 0, 0, flags};
    start.insert(start.end(), behind.begin(), behind.end());
    return lacing_of(start, size);
}

}  // namespace

TEST(Ebml, NumbersTakeOneToEightBytes) {
    EXPECT_FALSE(ebml_number({}));
    EXPECT_EQ(ebml_number(ByteVector{0x81})->value, 1u);
    EXPECT_EQ(ebml_number(ByteVector{0x40, 0x7F})->value, 0x7Fu);
    EXPECT_FALSE(ebml_number(ByteVector{0x40}));
    EXPECT_FALSE(ebml_number(ByteVector{0x00, 1}));
    EXPECT_TRUE(ebml_number(ByteVector{0xFF})->all_ones);
    const auto longest = ebml_number(ByteVector{1, 0xFF, 0xFF, 0xFF, 0xFF, 0xFF, 0xFF, 0xFE});
    EXPECT_EQ(longest->value, (1ull << 56) - 2);
    EXPECT_FALSE(longest->all_ones);
    // Ids have four bytes at most.
    EXPECT_FALSE(ebml_head(ByteVector{0x08, 1, 1, 1, 1, 0x81}));
    EXPECT_EQ(ebml_head(ByteVector{0x1A, 0x45, 0xDF, 0xA3, 0x84})->id, 0x1A45DFA3u);
}

TEST(MatroskaBlocks, FramesFillTheirBlock) {
    EXPECT_EQ(lacing(0, {}, 100)->frames, Sizes{96});
    // Three frames, told as sums of bytes.
    EXPECT_EQ(lacing(0x02, {2, 255, 1, 10}, 1000)->frames, (Sizes{256, 10, 1000 - 8 - 266}));
    // Four of one size.
    EXPECT_EQ(lacing(0x04, {3}, 4 + 1 + 40)->frames, (Sizes{10, 10, 10, 10}));
    EXPECT_FALSE(lacing(0x04, {3}, 4 + 1 + 41));
    // The second is five bytes larger than the first.
    EXPECT_EQ(lacing(0x06, {2, 0x8A, 0x80 | (63 + 5)}, 100)->frames, (Sizes{10, 15, 100 - 7 - 25}));
}

TEST(MatroskaBlocks, FramesLargerThanTheirBlockAreWrong) {
    EXPECT_FALSE(lacing(0x02, {1, 200}, 100));
    EXPECT_FALSE(lacing(0x06, {1, 0x40, 0xFF}, 100));
    EXPECT_FALSE(lacing(0x02, {5, 255, 255}, 100));
    EXPECT_FALSE(lacing_of(ByteVector{0x81, 0}, 2));
    // A difference that would make a frame smaller than nothing.
    EXPECT_FALSE(lacing(0x06, {2, 0x81, 0x80}, 100));
}

TEST(Matroska, ClustersWithoutASizeEndWhereTheNextBegins) {
    auto bytes = test::matroska_file(false);
    // The segment and its clusters, as a live recording has them.
    const ByteVector cluster{0x1F, 0x43, 0xB6, 0x75}, segment{0x18, 0x53, 0x80, 0x67};
    for (const auto& id : {segment, cluster}) {
        for (auto it = bytes.begin();;) {
            it = std::search(it, bytes.end(), id.begin(), id.end());
            if (it == bytes.end()) break;
            const std::uint8_t unknown[] = {0x1F, 0xFF, 0xFF, 0xFF};
            std::copy(std::begin(unknown), std::end(unknown), it + 4);
            it += 8;
        }
    }
    test::MemoryContent content(bytes);
    const auto check = *check_content(content);
    EXPECT_TRUE(check.complete) << check.why;
    EXPECT_EQ(check.holds_to, bytes.size());
}

TEST(Matroska, BlocksOfATrackThatIsNotThereAreWrong) {
    auto bytes = test::matroska_file(false);
    const ByteVector block{0x81, 0, 0, 0, 0, 0};
    const auto it = std::search(bytes.begin(), bytes.end(), block.begin(), block.end());
    ASSERT_NE(it, bytes.end());
    *it = 0x82;
    test::MemoryContent content(bytes);
    EXPECT_FALSE(check_content(content)->complete);
}

}  // namespace undershelf::content
