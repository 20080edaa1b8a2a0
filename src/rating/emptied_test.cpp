#include "rating/emptied.hpp"

#include <gtest/gtest.h>

namespace undershelf {

TEST(Emptied, CountsWhatBeginsWithZeros) {
    std::size_t looks = 0;
    Emptied emptied([&](std::int64_t entry) {
        ++looks;
        return entry == 9 ? ByteVector() : ByteVector(16, entry % 2 ? 0 : 7);
    });
    for (const std::int64_t entry : {1, 2, 3, 4, 9}) emptied.add(1, entry);
    emptied.add(2, 2);
    EXPECT_EQ(emptied.of(1).files, 4u);
    EXPECT_EQ(emptied.of(1).zeros, 2u);
    EXPECT_EQ(emptied.of(2).zeros, 0u);
    EXPECT_EQ(emptied.of(3).files, 0u);
    EXPECT_EQ(looks, 6u);
}

TEST(Emptied, LooksAtSomeOfManyFromEverywhere) {
    std::size_t late = 0, looks = 0;
    Emptied emptied([&](std::int64_t entry) {
        ++looks;
        late += entry > 50'000;
        return ByteVector(16, 7);
    });
    for (std::int64_t entry = 0; entry < 100'000; ++entry) emptied.add(1, entry);
    EXPECT_LE(emptied.of(1).files, 128u);
    EXPECT_EQ(looks, emptied.of(1).files);
    EXPECT_GT(late, 0u);
}

}  // namespace undershelf
