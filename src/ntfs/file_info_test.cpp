#include "ntfs/file_info.hpp"

#include <gtest/gtest.h>

#include "ntfs/structures.hpp"

namespace undershelf::ntfs {

namespace {

constexpr std::uint64_t cluster = 4096;

std::vector<Piece> pieces_of(std::vector<Run> runs, std::uint64_t size, bool compressed) {
    Stream s;
    s.resident = false;
    s.runs = std::move(runs);
    s.size = s.valid_size = size;
    if (compressed) {
        s.flags = ATTR_FLAG_COMPRESSED;
        s.compression_unit = 4;
    }
    Geometry g;
    g.clusters = 1 << 20;
    std::vector<Piece> pieces;
    std::vector<ByteRange> claims;
    lay_out(s, g, 0, pieces, claims);
    return pieces;
}

}  // namespace

TEST(NtfsLayout, KeepsLongHolesAsOnePiece) {
    for (const bool compressed : {false, true}) {
        const auto tebibyte = pieces_of({{0, (1ull << 40) / cluster, true}}, 1ull << 40, compressed);
        ASSERT_EQ(tebibyte.size(), 1u);
        EXPECT_EQ(tebibyte[0].kind, PieceKind::zeros);
        EXPECT_EQ(tebibyte[0].length, 1ull << 40);
        const auto claimed = pieces_of({{0, 1ull << 46, true}}, 1ull << 60, compressed);
        ASSERT_EQ(claimed.size(), 2u);
        EXPECT_EQ(claimed[1].kind, PieceKind::missing);
        EXPECT_EQ(claimed[1].offset + claimed[1].length, 1ull << 60);
    }
}

TEST(NtfsLayout, PutsCompressionUnitsTogetherFromSeveralRuns) {
    // Stored, packed (5 of 16 clusters), sparse over two runs, stored over two runs, and half a unit more.
    const auto pieces = pieces_of({{100, 32, false},
                                   {200, 5, false},
                                   {0, 11, true},
                                   {0, 7, true},
                                   {0, 9, true},
                                   {300, 10, false},
                                   {400, 14, false}},
                                  (32 + 16 + 16 + 16 + 8) * cluster, true);
    ASSERT_EQ(pieces.size(), 6u);
    EXPECT_EQ(pieces[0].length, 32 * cluster);
    EXPECT_EQ(pieces[1].kind, PieceKind::packed);
    EXPECT_EQ(pieces[1].input, (std::vector<ByteRange>{{200 * cluster, 5 * cluster}}));
    EXPECT_EQ(pieces[2].kind, PieceKind::zeros);
    EXPECT_EQ(pieces[2].length, 16 * cluster);
    EXPECT_EQ(pieces[3].source, 300 * cluster);
    EXPECT_EQ(pieces[4].source, 400 * cluster);
    EXPECT_EQ(pieces[4].length, 6 * cluster);
    EXPECT_EQ(pieces[5].kind, PieceKind::packed);
    std::uint64_t at = 0;
    for (const auto& p : pieces) {
        EXPECT_EQ(p.offset, at);
        at += p.length;
    }
}

}  // namespace undershelf::ntfs
