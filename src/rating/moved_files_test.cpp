#include "rating/moved_files.hpp"

#include <gtest/gtest.h>

namespace undershelf {

namespace {
Claimant lost(std::int64_t id) {
    Claimant c;
    c.id = id;
    c.volume = 1;
    c.identity = static_cast<std::uint64_t>(id) * 100;
    c.origin = Origin::deleted;
    c.size = 900;
    c.created = 5000;
    c.modified = 6000;
    c.ranges = {{8192, 4096}};
    return c;
}
/// Is it taken for the same file as entry 1?
bool same(Claimant other) {
    MovedFiles moved;
    auto first = lost(1);
    moved.identify(first);
    moved.identify(other);
    EXPECT_EQ(first.identity, 100u);
    EXPECT_EQ(moved.identity_of(other.id, 7), other.identity == 100 ? 100u : 7u);
    return other.identity == 100;
}
template <typename Change>
Claimant changed(const Change& change) {
    auto c = lost(2);
    change(c);
    return c;
}
}  // namespace

TEST(MovedFiles, AreOneContent) {
    EXPECT_TRUE(same(lost(2)));
}

TEST(MovedFiles, AreOthersWhereAnythingDiffers) {
    EXPECT_FALSE(same(changed([](auto& c) { c.volume = 2; })));
    EXPECT_FALSE(same(changed([](auto& c) { c.size = 901; })));
    EXPECT_FALSE(same(changed([](auto& c) { c.created = 5001; })));
    EXPECT_FALSE(same(changed([](auto& c) { c.modified = 6001; })));
    EXPECT_FALSE(same(changed([](auto& c) { c.ranges[0].offset = 12288; })));
    EXPECT_FALSE(same(changed([](auto& c) { c.created = unknown_rank; }))) << "no birth is known";
    EXPECT_FALSE(same(changed([](auto& c) { c.origin = Origin::unnamed; })));
}

}  // namespace undershelf
