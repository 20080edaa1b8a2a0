// Films and sounds that have no index: where they end, and what they cannot be.

#include <gtest/gtest.h>

#include "support/checked.hpp"

namespace undershelf {

using test::checked;
using test::with_behind;

TEST(Streams, FilmsWithoutAnEndMarkEndWithTheContent) {
    for (const std::size_t step : {188, 192, 204}) {
        auto bytes = test::transport_stream(step);
        auto check = checked(bytes);
        EXPECT_EQ(check.format, "mpeg");
        EXPECT_TRUE(check.complete) << check.why;
        EXPECT_EQ(check.strength, Strength::fair);
        // A cluster of another one, in step with its packets or not.
        const auto other = test::transport_stream(step, 7);
        for (const std::size_t at : {20 * step, 20 * step + 1}) {
            auto wrong = bytes;
            std::copy(other.begin(), other.end(), wrong.begin() + static_cast<std::ptrdiff_t>(at));
            EXPECT_EQ(checked(wrong).complete, step != 192 && at % step == 0) << step << " at " << at;
        }
        bytes.resize(bytes.size() - 5);
        check = checked(bytes);
        EXPECT_FALSE(check.complete);
        EXPECT_TRUE(check.cut);
    }
    auto bytes = test::program_stream();
    bytes.resize(bytes.size() - 4);
    EXPECT_TRUE(checked(bytes).complete);
    EXPECT_TRUE(checked(test::bare_video(false)).complete);
}

TEST(Streams, BareVideoEndsAtItsMark) {
    auto bytes = test::bare_video();
    const auto end = bytes.size();
    for (const std::size_t more : {0, 1, 5000}) {
        auto longer = bytes;
        longer.resize(end + more);
        EXPECT_EQ(checked(longer).holds_to, end);
        EXPECT_TRUE(checked(with_behind(bytes, more)).complete);
        EXPECT_EQ(checked(with_behind(bytes, more)).holds_to, end);
    }
    // Parts of a picture may be left out, and nothing else comes between them.
    for (const std::uint8_t code : {5, 0xE0}) {
        auto wrong = bytes;
        wrong[12 + 8 + 3 * 4 + 61 + 62 + 63 + 3] = code;
        EXPECT_EQ(checked(wrong).complete, code == 5);
    }
    bytes[12 + 8 + 3] = 9;
    EXPECT_FALSE(checked(bytes).complete);
}

TEST(Streams, AProgramStreamsClockLeapsAtAHeadAlone) {
    // Two films, one behind the other: the second begins with a head.
    auto bytes = test::program_stream();
    const auto other = test::program_stream(90);
    bytes.insert(bytes.end(), other.begin(), other.end());
    EXPECT_TRUE(checked(bytes).complete);
    // A pack from the other's end in the middle of one, in step.
    constexpr std::size_t head = 12, pack = 14 + 9 + 300;
    bytes = test::program_stream();
    std::copy_n(other.begin() + head + 80 * pack, pack, bytes.begin() + head + 5 * pack);
    const auto check = checked(bytes);
    EXPECT_FALSE(check.complete);
    EXPECT_EQ(check.holds_to, head + 5 * pack);
}

TEST(Streams, SoundThatStopsIsCutAndNotContradicted) {
    auto bytes = test::mp3_file(false);
    bytes.resize(30 + 417 * 20 + 200);
    auto check = checked(bytes);
    EXPECT_FALSE(check.complete);
    EXPECT_TRUE(check.cut);
    // Without a count frames that fill the content are all there are.
    bytes.resize(30 + 417 * 20);
    EXPECT_TRUE(checked(bytes).complete);
    bytes = test::mp3_file(true);
    bytes.resize(30 + 417 * 20);
    check = checked(bytes);
    EXPECT_FALSE(check.complete);
    EXPECT_TRUE(check.cut);
}

}  // namespace undershelf
