#include "base/batches.hpp"

#include <gtest/gtest.h>

#include <vector>

namespace undershelf {

TEST(Batches, HandsOverEverythingInOrder) {
    std::vector<std::uint64_t> seen;
    std::uint64_t last = 0;
    in_ordered_batches<std::vector<std::uint64_t>>(
        1003, 10, [] { return false; },
        [](std::uint64_t from, std::uint64_t to) {
            std::vector<std::uint64_t> out;
            for (auto n = from; n < to; ++n) out.push_back(n);
            return out;
        },
        [&](std::vector<std::uint64_t> batch, std::uint64_t to) {
            seen.insert(seen.end(), batch.begin(), batch.end());
            last = to;
        });
    ASSERT_EQ(seen.size(), 1003u);
    for (std::uint64_t n = 0; n < seen.size(); ++n) ASSERT_EQ(seen[n], n);
    EXPECT_EQ(last, 1003u);
}

TEST(Batches, EndsEarlyAndPassesErrorsOn) {
    std::uint64_t last = 0;
    in_ordered_batches<int>(
        1000, 10, [&] { return last >= 100; }, [](std::uint64_t, std::uint64_t) { return 0; },
        [&](int, std::uint64_t to) { last = to; });
    EXPECT_GE(last, 100u);
    EXPECT_LT(last, 1000u);
    const auto broken = [](std::uint64_t from, std::uint64_t) -> int {
        if (from == 50) throw std::runtime_error("broken");
        return 0;
    };
    EXPECT_THROW(in_ordered_batches<int>(
                     100, 10, [] { return false; }, broken, [](int, std::uint64_t) {}),
                 std::runtime_error);
}

}  // namespace undershelf
