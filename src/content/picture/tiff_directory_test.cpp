#include "content/picture/tiff_directory.hpp"

#include <gtest/gtest.h>

#include "content/format.hpp"
#include "content/formats.hpp"
#include "content/picture/tiff_tags.hpp"
#include "support/file_parts.hpp"
#include "support/memory_content.hpp"

namespace undershelf::content {

namespace {

using test::MemoryContent;

std::uint32_t directory_at(const ByteVector& bytes) {
    return load<boost::endian::little_uint32_buf_t>(bytes, 4)->value();
}
/// Where the value of the directory's entry `i` is.
std::size_t value_at(const ByteVector& bytes, std::size_t i) {
    return directory_at(bytes) + 2 + i * 12 + 8;
}

}  // namespace

TEST(TiffDirectory, GivesNumbersInBothOrders) {
    for (const bool big_endian : {false, true}) {
        const auto bytes = test::tiff_file({.big_endian = big_endian});
        MemoryContent content(bytes);
        TiffFile file(content);
        file.read();
        ASSERT_EQ(file.directories().size(), 1u);
        const auto& d = file.directories().front();
        EXPECT_EQ(file.number(d, tag::compression), compression::deflate);
        EXPECT_EQ(file.number(d, tag::make, 7), 7u);
        const auto offsets = file.numbers(*d.entry(tag::strip_offsets));
        ASSERT_EQ(offsets.size(), 4u);
        EXPECT_EQ(offsets[0], 8u);
        EXPECT_EQ(file.end(), bytes.size());
    }
}

TEST(TiffDirectory, DirectoriesThatLeadInCirclesAreReadOnce) {
    auto bytes = test::tiff_file();
    test::put_number(bytes, bytes.size() - 4, directory_at(bytes), 4);
    MemoryContent content(bytes);
    TiffFile file(content);
    file.read();
    EXPECT_EQ(file.directories().size(), 1u);
}

TEST(TiffDirectory, ManyThatOverlapAreRefused) {
    // A field of entries, any of which may begin a directory: each leads to the next, two bytes on.
    ByteVector bytes(1 << 20);
    test::put_number(bytes, 0, 0x4949, 2);
    test::put_number(bytes, 2, 42, 2);
    test::put_number(bytes, 4, 8, 4);
    for (std::size_t at = 8; at + 2 < bytes.size(); at += 2) test::put_number(bytes, at, 0x0101, 2);
    MemoryContent content(bytes);
    TiffFile file(content);
    EXPECT_THROW(file.read(), TiffWrong);
}

TEST(TiffDirectory, CountsAreHeldAgainstWhatIsThere) {
    auto bytes = test::tiff_file();
    test::put_number(bytes, value_at(bytes, 5) - 4, 0xFFFFFFFF, 4);
    MemoryContent content(bytes);
    TiffFile file(content);
    EXPECT_THROW(file.read(), TiffWrong);
}

TEST(Tiff, APictureWhoseDataStandBehindItsEndIsCut) {
    auto bytes = test::tiff_file({.deflated = false});
    test::put_number(bytes, value_at(bytes, 5), bytes.size(), 4);
    // One strip's place and size are within its directory.
    test::put_number(bytes, value_at(bytes, 5) - 4, 1, 4);
    test::put_number(bytes, value_at(bytes, 8) - 4, 1, 4);
    test::put_number(bytes, value_at(bytes, 8), 100'000, 4);
    MemoryContent content(bytes);
    const auto check = *check_content(content);
    EXPECT_FALSE(check.complete);
    EXPECT_TRUE(check.cut) << check.why;
}

TEST(Tiff, HugePicturesBehindAFewBytesAreNotDecoded) {
    auto bytes = test::tiff_file();
    for (const std::size_t i : {0, 1, 7}) test::put_number(bytes, value_at(bytes, i), 0x7FFFFFF0, 4);
    MemoryContent content(bytes);
    EXPECT_FALSE(check_content(content)->complete);
}

}  // namespace undershelf::content
