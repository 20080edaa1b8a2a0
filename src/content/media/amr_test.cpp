#include <gtest/gtest.h>

#include <random>

#include "content/formats.hpp"
#include "content/glance.hpp"
#include "support/file_parts.hpp"

namespace undershelf {

namespace {

/// So many frames of 12.2 kbit/s (32 bytes), with pauses of one byte among them.
ByteVector recording(std::size_t frames) {
    ByteVector out;
    test::append(out, "#!AMR\n");
    std::mt19937 random(7);
    for (std::size_t i = 0; i < frames; ++i) {
        if (i % 10 == 9) {
            out.push_back(0x7C);
            continue;
        }
        out.push_back(0x3C);
        for (int n = 0; n < 31; ++n) out.push_back(static_cast<std::uint8_t>(random()));
    }
    return out;
}

Check checked(const ByteVector& bytes) {
    BytesAsContent content(bytes);
    return check_content(content).value_or(Check());
}

}  // namespace

TEST(Amr, HoldsToItsLastFrame) {
    const auto bytes = recording(500);
    EXPECT_EQ(glance(Bytes(bytes).first(512)), Glance::mark);
    EXPECT_EQ(format_of_start(bytes), format_named("amr"));
    const auto check = checked(bytes);
    EXPECT_TRUE(check.complete) << check.why;
    EXPECT_EQ(check.strength, Strength::fair);
    EXPECT_EQ(check.holds_to, bytes.size());
    EXPECT_EQ(kind_of_extension("awb"), Kind::audio);
}

TEST(Amr, OfManyBitsASecondIsRead) {
    ByteVector bytes;
    test::append(bytes, "#!AMR-WB\n");
    for (int i = 0; i < 40; ++i) {
        bytes.push_back(0x44);  // 23.85 kbit/s
        bytes.resize(bytes.size() + 60, 0x55);
    }
    EXPECT_TRUE(checked(bytes).complete);
    EXPECT_EQ(checked(bytes).holds_to, bytes.size());
}

TEST(Amr, MayHaveFramesThatWereReceivedDamaged) {
    auto bytes = recording(30);
    bytes.push_back(0x38);  // 12.2 kbit/s, without the mark of quality
    bytes.resize(bytes.size() + 31, 0x55);
    bytes.push_back(0x78);  // a pause, likewise
    EXPECT_TRUE(checked(bytes).complete);
    EXPECT_EQ(checked(bytes).holds_to, bytes.size());
}

TEST(Amr, EndsWhereZerosFollow) {
    auto bytes = recording(30);
    const auto end = bytes.size();
    bytes.resize(end + 300);
    EXPECT_TRUE(checked(bytes).complete);
    EXPECT_EQ(checked(bytes).holds_to, end);
}

TEST(Amr, IsBrokenWhereAnotherFilesBytesAre) {
    auto bytes = recording(500);
    std::mt19937 random(8);
    for (std::size_t i = 4096; i < 8192; ++i) bytes[i] = static_cast<std::uint8_t>(random());
    const auto check = checked(bytes);
    EXPECT_FALSE(check.complete);
    EXPECT_FALSE(check.cut);
    EXPECT_LE(check.holds_to, 4096 + format_named("amr")->delay);
}

TEST(Amr, SaysThatItIsCutOff) {
    auto bytes = recording(30);
    bytes.resize(bytes.size() - 40);
    EXPECT_TRUE(checked(bytes).cut);
    EXPECT_FALSE(checked(bytes).complete);
    EXPECT_FALSE(check_content(*std::make_unique<BytesAsContent>(Bytes())).has_value());
}

}  // namespace undershelf
