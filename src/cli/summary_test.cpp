#include "cli/summary.hpp"

#include <gtest/gtest.h>

#include "cli/terminal.hpp"

namespace undershelf::cli {

namespace {
Volume volume(int number, VolumeState state, double support = 1) {
    Volume v;
    v.number = number;
    v.state = state;
    v.support = support;
    return v;
}
}  // namespace

TEST(Summary, RanksVolumesByWhatTheyOffer) {
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

TEST(Summary, SaysTimesAndSharesInWords) {
    EXPECT_EQ(human_time(0.2), "0 s");
    EXPECT_EQ(human_time(89), "89 s");
    EXPECT_EQ(human_time(600), "10 min");
    EXPECT_EQ(human_time(2 * 3600 + 20 * 60), "2 h 20 min");
    EXPECT_EQ(share_in_words(1), "all");
    EXPECT_EQ(share_in_words(0.999), "99 %");
    EXPECT_EQ(share_in_words(0), "0 %");
}

}  // namespace undershelf::cli
