#include "volume/content_stream.hpp"

#include <gtest/gtest.h>

#include "support/memory_device.hpp"
#include "volume/codec.hpp"

namespace undershelf {

namespace {
Piece piece(PieceKind kind, std::uint64_t offset, std::uint64_t length, std::uint64_t source = 0) {
    Piece p;
    p.kind = kind;
    p.offset = offset;
    p.length = length;
    p.source = source;
    return p;
}
ByteVector letters() {
    ByteVector out(4096);
    for (std::size_t i = 0; i < out.size(); ++i) out[i] = static_cast<std::uint8_t>('a' + i % 26);
    return out;
}
}  // namespace

TEST(ContentStream, JoinsPieces) {
    const auto source = test::memory_source(letters());
    auto inlined = piece(PieceKind::inlined, 30, 3);
    inlined.bytes = {'X', 'Y', 'Z'};
    ContentStream stream(*source,
                         {piece(PieceKind::stored, 0, 10, 26), piece(PieceKind::zeros, 10, 20), inlined,
                          piece(PieceKind::stored, 33, 5, 1)},
                         40);
    ByteVector out(40);
    const auto missing = stream.read(0, out);
    EXPECT_EQ(std::string(out.begin(), out.begin() + 10), "abcdefghij");
    EXPECT_EQ(std::string(out.begin() + 30, out.begin() + 38), "XYZbcdef");
    EXPECT_EQ(missing, (std::vector<ByteRange>{{38, 2}}));
    ByteVector part(5);
    EXPECT_TRUE(stream.read(28, part).empty());
    EXPECT_EQ(std::string(part.begin() + 2, part.end()), "XYZ");
}

TEST(ContentStream, TellsMissingRangesInTheFile) {
    const auto source = test::memory_source(letters(), RangeSet({{1024, 512}}));
    ContentStream stream(*source,
                         {piece(PieceKind::stored, 0, 100, 900), piece(PieceKind::stored, 100, 400, 1000),
                          piece(PieceKind::missing, 500, 50)},
                         550);
    ByteVector out(550);
    EXPECT_EQ(stream.read(0, out), (std::vector<ByteRange>{{124, 426}}));
}

TEST(ContentStream, CountsADamagedUnitAsMissing) {
    const auto source = test::memory_source(letters());
    auto packed = piece(PieceKind::packed, 0, 8192);
    packed.codec = Codec::lznt1;
    packed.input = {{0, 4096}};
    ContentStream stream(*source, {packed}, 8192);
    ByteVector out(100);
    EXPECT_EQ(stream.read(50, out), (std::vector<ByteRange>{{50, 100}}));
    EXPECT_TRUE(all_zero(out));
}

TEST(Codec, UnpacksLznt1) {
    // The example of [MS-XCA] section 3: "F# F# G A A G F# E D D E F# F# E E" and so on.
    const ByteVector packed{0x38, 0xb0, 0x88, 0x46, 0x23, 0x20, 0x00, 0x20, 0x47, 0x20, 0x41, 0x00,
                            0x10, 0xa2, 0x47, 0x01, 0xa0, 0x45, 0x20, 0x44, 0x00, 0x08, 0x45, 0x01,
                            0x50, 0x79, 0x00, 0xc0, 0x45, 0x20, 0x05, 0x24, 0x13, 0x88, 0x05, 0xb4,
                            0x02, 0x4a, 0x44, 0xef, 0x03, 0x58, 0x02, 0x8c, 0x09, 0x16, 0x01, 0x48,
                            0x45, 0x00, 0xbe, 0x00, 0x9e, 0x00, 0x04, 0x01, 0x18, 0x90, 0x00};
    const auto out = decode(Codec::lznt1, packed, 142);
    ASSERT_TRUE(out);
    EXPECT_EQ(std::string(out->begin(), out->begin() + 30), "F# F# G A A G F# E D D E F# F#");
}

TEST(Codec, RefusesDamage) {
    EXPECT_FALSE(decode(Codec::lznt1, ByteVector{0x38, 0xb0, 0x88}, 100));
    EXPECT_FALSE(decode(Codec::lznt1, ByteVector{0x03, 0xb0, 0x01, 0xff, 0xff, 0x00}, 100));
    EXPECT_FALSE(decode(Codec::zlib_chunk, ByteVector{1, 2, 3}, 10));
    EXPECT_EQ(decode(Codec::lznt1, ByteVector{0, 0}, 4), ByteVector(4));
}

}  // namespace undershelf
