#include "export/room.hpp"

#include <gtest/gtest.h>

#include "support/memory_device.hpp"

namespace undershelf {

namespace {
Piece piece(PieceKind kind, std::uint64_t offset, std::uint64_t length) {
    Piece p;
    p.kind = kind;
    p.offset = offset;
    p.length = length;
    return p;
}
}  // namespace

TEST(Room, HolesAndLostBytesNeedNone) {
    EXPECT_EQ(bytes_held({}), 0u);
    EXPECT_EQ(bytes_held({piece(PieceKind::stored, 0, 100), piece(PieceKind::zeros, 100, 1ull << 60),
                          piece(PieceKind::inlined, (1ull << 60) + 100, 7),
                          piece(PieceKind::missing, 0, 5000), piece(PieceKind::packed, 0, 30)}),
              137u);
    // Sums that do not fit are as large as can be, not small.
    EXPECT_EQ(bytes_held({piece(PieceKind::stored, 0, ~0ull), piece(PieceKind::stored, 0, 2)}), ~0ull);
}

TEST(Room, KnowsFilesThatAreMostlyHoles) {
    const auto source = test::memory_source(ByteVector(10'000));
    ShelfEntry e;
    e.size = 100'000;
    EXPECT_TRUE(is_mostly_holes(
        e, {piece(PieceKind::stored, 0, 40'000), piece(PieceKind::zeros, 40'000, 60'000)}, *source));
    EXPECT_FALSE(is_mostly_holes(
        e, {piece(PieceKind::stored, 0, 60'000), piece(PieceKind::zeros, 60'000, 40'000)}, *source));
    // A file that its source could hold is exported whatever it holds.
    e.size = 10'000;
    EXPECT_FALSE(is_mostly_holes(e, {piece(PieceKind::zeros, 0, 10'000)}, *source));
}

}  // namespace undershelf
