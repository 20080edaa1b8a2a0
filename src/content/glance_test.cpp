#include "content/glance.hpp"

#include <gtest/gtest.h>

#include <random>
#include <string_view>

namespace undershelf {

namespace {

using namespace std::string_view_literals;

ByteVector sector(std::string_view start, std::uint8_t filled_with = 0) {
    ByteVector out(512, filled_with);
    std::copy(start.begin(), start.end(), out.begin());
    return out;
}

}  // namespace

TEST(Glance, PassesOverZerosAndNoise) {
    EXPECT_EQ(glance(ByteVector(512)), Glance::nothing);
    std::mt19937 random(4);
    int seen = 0;
    for (int i = 0; i < 10'000; ++i) {
        ByteVector noise(512);
        for (auto& b : noise) b = static_cast<std::uint8_t>(random());
        seen += glance(noise) != Glance::nothing;
    }
    EXPECT_LT(seen, 60);
}

TEST(Glance, SeesMarksWhereverTheyStand) {
    EXPECT_EQ(glance(sector("\x89PNG\r\n"sv, 7)), Glance::mark);
    EXPECT_EQ(glance(sector("\0\0\0\x18"
                            "ftyp"sv,
                            7)),
              Glance::mark);
    EXPECT_EQ(glance(sector("\xff\xfb\x90"sv, 7)), Glance::mark);
    auto packets = ByteVector(512, 7);
    packets[0] = packets[188] = 0x47;
    EXPECT_EQ(glance(packets), Glance::mark);
    auto member = sector("puppets.txt");
    const auto sum = "0012345\0"sv;
    std::copy(sum.begin(), sum.end(), member.begin() + 148);
    EXPECT_EQ(glance(member), Glance::mark);
}

TEST(Glance, SeesTextsInAllEncodings) {
    EXPECT_EQ(
        glance(sector("Act one, scene two. The lantern maker enters by the left, with his prop ledger.")),
        Glance::text);
    EXPECT_EQ(glance(sector("Act one.")), Glance::text);  // zeros after
    EXPECT_EQ(glance(sector("Act one.\1\2\3")), Glance::nothing);
    EXPECT_EQ(glance(sector("A\0c\0t\0 \0o\0n\0e\0"sv)), Glance::text);
    EXPECT_EQ(glance(sector("\0A\0c\0t\0 \0o\0n\0e"sv)), Glance::text);
    EXPECT_EQ(glance(Bytes()), Glance::nothing);
}

}  // namespace undershelf
