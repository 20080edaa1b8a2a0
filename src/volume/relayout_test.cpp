#include "volume/relayout.hpp"

#include <gtest/gtest.h>

namespace undershelf {

namespace {
Piece piece(PieceKind kind, std::uint64_t offset, std::uint64_t length, std::uint64_t source = 0) {
    Piece p;
    p.kind = kind;
    p.known = false;
    p.offset = offset;
    p.length = length;
    p.source = source;
    return p;
}
using Pieces = std::vector<Piece>;
}  // namespace

TEST(Relayout, PutsStoredContentElsewhere) {
    const Pieces before{piece(PieceKind::stored, 0, 100, 1000), piece(PieceKind::missing, 100, 50),
                        piece(PieceKind::zeros, 150, 30)};
    EXPECT_EQ(pieces_in_ranges(before, {{1000, 60}, {5000, 200}}),
              (Pieces{piece(PieceKind::stored, 0, 60, 1000), piece(PieceKind::stored, 60, 90, 5000),
                      piece(PieceKind::zeros, 150, 30)}));
    EXPECT_EQ(pieces_in_ranges(before, {{1000, 60}}),
              (Pieces{piece(PieceKind::stored, 0, 60, 1000), piece(PieceKind::missing, 60, 90),
                      piece(PieceKind::zeros, 150, 30)}));
    EXPECT_TRUE(pieces_in_ranges({}, {{0, 10}}).empty());
}

TEST(Relayout, ReplacesWhatWasSaidOfTheLayout) {
    std::vector<Evidence> evidence{{Fact::name_fragment, 0, 0, {}},
                                   {Fact::contiguous, 1, 0, {}},
                                   {Fact::layout_prior, 3, 4, {}},
                                   {Fact::after_end_mark, 0, 0, {}}};
    replace_layout_evidence(evidence, {{Fact::step_prior, 1, 2, {}}});
    ASSERT_EQ(evidence.size(), 3u);
    EXPECT_EQ(evidence[1].fact, Fact::after_end_mark);
    EXPECT_EQ(evidence[2].fact, Fact::step_prior);
}

}  // namespace undershelf
