#include "answers/counts.hpp"

#include <gtest/gtest.h>

namespace undershelf {

namespace {
Volume volume(int number, VolumeState state, double support = 1) {
    Volume v;
    v.number = number;
    v.state = state;
    v.support = support;
    return v;
}
}  // namespace

TEST(Counts, RanksVolumesByWhatTheyOffer) {
    Rows rows;
    rows[1].by_grade[static_cast<std::size_t>(Grade::likely)] = 3;
    rows[2].by_grade[static_cast<std::size_t>(Grade::verified)] = 2;
    rows[2].by_grade[static_cast<std::size_t>(Grade::likely)] = 2;
    rows[2].by_grade[static_cast<std::size_t>(Grade::doubtful)] = 100;
    rows[5].by_grade[static_cast<std::size_t>(Grade::likely)] = 50;
    std::vector<int> order;
    for (const auto& v : best_first({volume(1, VolumeState::present), volume(2, VolumeState::present),
                                     volume(3, VolumeState::present, 0.5), volume(4, VolumeState::present),
                                     volume(5, VolumeState::former)},
                                    rows))
        order.push_back(v.number);
    EXPECT_EQ(order, (std::vector<int>{2, 1, 4, 3, 5}));
}

}  // namespace undershelf
