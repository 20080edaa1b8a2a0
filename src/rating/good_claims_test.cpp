#include "rating/good_claims.hpp"

#include <gtest/gtest.h>

namespace undershelf {

namespace {

NamedContent lost(Grade grade) {
    NamedContent c;
    c.origin = Origin::deleted;
    c.grade = grade;
    c.size = 900;
    Piece piece;
    piece.length = 900;
    piece.source = 4096;
    c.pieces = {piece};
    c.claims = {{4096, 1024}};
    return c;
}

std::vector<ByteRange> claims_of(const NamedContent& c) {
    std::vector<ByteRange> out;
    append_good_claims(c, out);
    return out;
}

const std::vector<ByteRange> everything{{4096, 1024}}, nothing;

}  // namespace

TEST(GoodClaims, AreThoseThatNothingSpeaksAgainst) {
    EXPECT_EQ(claims_of(lost(Grade::likely)), everything);
    EXPECT_EQ(claims_of(lost(Grade::doubtful)), everything);
    EXPECT_EQ(claims_of(lost(Grade::gone)), nothing);
    auto live = lost(Grade::doubtful);
    live.origin = Origin::live;
    live.contradicts = true;
    EXPECT_EQ(claims_of(live), everything);
    auto folder = lost(Grade::none);
    folder.is_dir = true;
    EXPECT_EQ(claims_of(folder), everything);
}

TEST(GoodClaims, EndWhereAContentIsSomethingElse) {
    auto other = lost(Grade::doubtful);
    other.contradicts = true;
    EXPECT_EQ(claims_of(other), nothing);
    auto broken = lost(Grade::doubtful);
    broken.holds_to = 300;
    EXPECT_EQ(claims_of(broken), (std::vector<ByteRange>{{4096, 300}}));
    // Another file of the same format, which ends before.
    broken.complete = true;
    EXPECT_EQ(claims_of(broken), nothing);
}

}  // namespace undershelf
