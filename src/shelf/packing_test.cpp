#include "shelf/packing.hpp"

#include <gtest/gtest.h>

#include <random>

#include "content/format.hpp"
#include "content/kinds.hpp"

namespace undershelf {

namespace {
std::vector<Piece> samples() {
    Piece stored, zeros, inlined, packed, missing;
    stored.length = 5000;
    stored.source = 1ull << 40;
    stored.known = false;
    zeros.kind = PieceKind::zeros;
    zeros.offset = 5000;
    zeros.length = 100;
    inlined.kind = PieceKind::inlined;
    inlined.offset = 5100;
    inlined.bytes = {1, 2, 3};
    inlined.length = 3;
    inlined.source = 77;
    packed.kind = PieceKind::packed;
    packed.codec = Codec::lznt1;
    packed.offset = 5103;
    packed.length = 65536;
    packed.input = {{4096, 8192}, {1024, 512}};
    missing.kind = PieceKind::missing;
    missing.offset = 80000;
    missing.length = 9;
    return {stored, zeros, inlined, packed, missing};
}
}  // namespace

// Shelves keep these numbers: what is written once must mean the same ever after.
static_assert(static_cast<int>(Fact::live_chain) == 1 && static_cast<int>(Fact::old_name) == 20 &&
              static_cast<int>(Fact::contested) == 25 && static_cast<int>(Fact::not_copied) == 62 &&
              static_cast<int>(Fact::kind_habit) == 79 && static_cast<int>(Fact::name_taken_out) == 83 &&
              static_cast<int>(Fact::left_over) == facts_end - 1);
static_assert(static_cast<int>(Origin::unnamed) == 3 && static_cast<int>(Grade::verified) == 5 &&
              static_cast<int>(Layout::known) == 2 && static_cast<int>(NameCertainty::made_up) == 3 &&
              static_cast<int>(PieceKind::missing) == 4 && static_cast<int>(Codec::zlib_chunk) == 2 &&
              static_cast<int>(Kind::text) == 9 && static_cast<int>(Kind::link) == 10 &&
              static_cast<int>(Strength::strong) == 3);

TEST(Packing, GivesBackWhatWasPacked) {
    EXPECT_EQ(unpack_pieces(pack_pieces(samples())), samples());
    const std::vector<ByteRange> ranges{{1ull << 50, 4096}, {512, 1}, {0, ~0ull >> 1}};
    EXPECT_EQ(unpack_ranges(pack_ranges(ranges)), ranges);
    const std::vector<Evidence> evidence{{Fact::overwritten, 12, 34, "", 0.f, -0.5f},
                                         {Fact::old_name, ~0ull, 0, "Fäden.txt", 1.f, 0.f}};
    EXPECT_EQ(unpack_evidence(pack_evidence(evidence)), evidence);
    EXPECT_TRUE(unpack_pieces({}).empty());
}

TEST(Packing, SurvivesDamage) {
    std::mt19937 random(1);
    const auto pieces = pack_pieces(samples());
    const auto evidence = pack_evidence({{Fact::old_name, 1, 2, "name", 1.f, 0.f}});
    for (std::size_t cut = 0; cut < pieces.size(); ++cut)
        EXPECT_LE(unpack_pieces(Bytes(pieces).first(cut)).size(), 5u);
    for (int i = 0; i < 20'000; ++i) {
        auto bytes = i % 2 ? pieces : evidence;
        bytes[random() % bytes.size()] = static_cast<std::uint8_t>(random());
        unpack_pieces(bytes);
        unpack_ranges(bytes);
        unpack_evidence(bytes);
    }
}

}  // namespace undershelf
