#include "layout/usual_places.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <vector>

#include "base/units.hpp"

namespace undershelf {

namespace {

std::vector<std::uint64_t> all(const ByteRange& stretch) {
    std::vector<std::uint64_t> out;
    UsualPlaces places(stretch);
    while (const auto place = places.next()) out.push_back(*place);
    return out;
}
}  // namespace

TEST(UsualPlaces, TellEveryWholeMebibyteOnce) {
    for (const auto& stretch : {ByteRange{0, 300 * mebibyte},
                                {512, 5000 * mebibyte},
                                {77 * mebibyte + 5, 1000},
                                {200 * mebibyte, 1},
                                {1000 * mebibyte + 17, 777 * mebibyte}}) {
        auto places = all(stretch);
        std::vector<std::uint64_t> expected{stretch.offset};
        if (stretch.length > 63 * 512) expected.push_back(stretch.offset + 63 * 512);
        for (std::uint64_t at = 0; at < stretch.end(); at += mebibyte) {
            if (at > stretch.offset) expected.push_back(at);
        }
        std::sort(places.begin(), places.end());
        std::sort(expected.begin(), expected.end());
        EXPECT_EQ(places, expected) << stretch.offset;
    }
    EXPECT_TRUE(all({100, 0}).empty());
}

TEST(UsualPlaces, TellTheUsualOnesFirst) {
    const auto places = all({0, 4096 * mebibyte});
    EXPECT_EQ(places[1], 63u * 512);
    EXPECT_EQ(places[2], mebibyte);
    const auto place_of = [&](std::uint64_t at) {
        return std::find(places.begin(), places.end(), at) - places.begin();
    };
    EXPECT_LT(place_of(2048 * mebibyte), 70);
    EXPECT_LT(place_of(1024 * mebibyte), place_of(1536 * mebibyte));
    EXPECT_LT(place_of(1536 * mebibyte), place_of(1537 * mebibyte));
}

TEST(UsualPlaces, CostNothingOnTheLargestSource) {
    UsualPlaces places({0, ~0ull >> 1});
    for (int i = 0; i < 1000; ++i) EXPECT_TRUE(places.next());
}

}  // namespace undershelf
