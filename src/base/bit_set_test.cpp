#include "base/bit_set.hpp"

#include <gtest/gtest.h>

#include <random>
#include <vector>

namespace undershelf {

TEST(BitSet, AgreesWithASimpleOne) {
    std::mt19937 random(3);
    for (int round = 0; round < 200; ++round) {
        const std::uint64_t end = random() % 300;
        BitSet set(end);
        std::vector<bool> simple(end + 400);
        for (int i = 0; i < 4; ++i) {
            const std::uint64_t from = random() % 320, to = from + random() % 140;
            set.add(from, to);
            for (auto n = from; n < std::min(to, end); ++n) simple[n] = true;
        }
        std::uint64_t count = 0;
        for (std::uint64_t n = 0; n < end + 10; ++n) {
            EXPECT_EQ(set.has(n), simple[n]);
            count += simple[n];
            auto in = n, out = n;
            while (in < end && !simple[in]) ++in;
            while (out < end && simple[out]) ++out;
            EXPECT_EQ(set.next_in(n), in < end ? in : ~0ull);
            EXPECT_EQ(set.next_out(n), out);
            for (const auto to : {n, n + 1, n + 64, n + 100, n + 400}) {
                EXPECT_EQ(set.next_in(n, to), std::min<std::uint64_t>(in < end ? in : ~0ull, to));
                EXPECT_EQ(set.next_out(n, to), std::min(out, to));
            }
            for (const std::uint64_t length : {0, 1, 63, 64, 100})
                EXPECT_EQ(set.any(n, n + length), in < std::min(end, n + length));
        }
        EXPECT_EQ(set.count(), count);
    }
}

TEST(BitSet, TakesOnlyWhatThereIsRoomFor) {
    BitSet set(10), other(100);
    other.add(5, 80);
    set.add(other);
    set.add(99);
    EXPECT_EQ(set.count(), 5u);
    EXPECT_FALSE(set.has(99));
    EXPECT_TRUE(set.any(0, 6));
    EXPECT_FALSE(set.any(0, 5));
    EXPECT_EQ(BitSet().next_in(0), ~0ull);
}

}  // namespace undershelf
