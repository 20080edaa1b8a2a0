// Films and sounds that have no index: where they end, and what they cannot be.

#include <gtest/gtest.h>

#include <tuple>

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
    // Two films, one after the other: the second begins with a head.
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

namespace {

/// Where the fields are that asf_file() writes.
constexpr std::size_t asf_properties = 30, asf_data = 30 + 104 + 50, asf_packets = asf_data + 50,
                      asf_packet = 600;

void put(ByteVector& bytes, std::size_t at, std::uint64_t value, std::size_t size) {
    for (std::size_t i = 0; i < size; ++i) bytes[at + i] = static_cast<std::uint8_t>(value >> (8 * i));
}

}  // namespace

TEST(Streams, AnAsfFilmThatStopsIsCut) {
    auto bytes = test::asf_file();
    bytes.resize(asf_packets + 5 * asf_packet + 40);
    const auto check = checked(bytes);
    EXPECT_FALSE(check.complete);
    EXPECT_TRUE(check.cut);
    EXPECT_EQ(check.holds_to, bytes.size());
}

TEST(Streams, AnAsfFilmSentAsItWasMadeTellsNoCounts) {
    // Neither how many packets, nor how long the data and the file are.
    auto bytes = test::asf_file();
    bytes.resize(asf_packets + 24 * asf_packet);
    put(bytes, asf_properties + 40, 0, 8);
    put(bytes, asf_properties + 88, 1, 4);
    put(bytes, asf_data + 16, bytes.size() - asf_data, 8);
    put(bytes, asf_data + 40, 0, 8);
    const auto check = checked(bytes);
    EXPECT_TRUE(check.complete) << check.why;
    EXPECT_EQ(check.holds_to, bytes.size());
}

TEST(Streams, AsfPacketsThatContradictThemselvesAreTold) {
    const auto whole = test::asf_file();
    ASSERT_TRUE(checked(whole).complete);
    constexpr std::size_t third = asf_packets + 3 * asf_packet;
    // Padding that is more than the packet; a part that does not follow the last; payloads that run over.
    for (const auto& [at, value, size] :
         {std::tuple{third + 5, 255u, 1u}, {third + 282, 9u, 1u}, {third + 28, 0xFFFFu, 2u}}) {
        auto wrong = whole;
        put(wrong, at, value, size);
        const auto check = checked(wrong);
        EXPECT_FALSE(check.complete) << at - third;
        EXPECT_EQ(check.holds_to, third) << at - third;
    }
    // An index that tells of a packet that there is not.
    auto wrong = whole;
    put(wrong, wrong.size() - 6, 25, 4);
    EXPECT_FALSE(checked(wrong).complete);
    EXPECT_EQ(checked(wrong).why, "its index makes no sense");
    // Sizes that lead anywhere.
    for (const std::uint64_t size :
         {std::uint64_t{0}, std::uint64_t{25}, ~std::uint64_t{0}, std::uint64_t{1} << 63}) {
        for (const std::size_t at : {std::size_t{16}, asf_properties + 16, asf_data + 16, asf_data + 40}) {
            wrong = whole;
            put(wrong, at, size, 8);
            EXPECT_FALSE(checked(wrong).complete) << at << ": " << size;
        }
    }
}

TEST(Streams, DiscsFillTheirSectorsWithZeros) {
    const auto stream = test::program_stream();
    constexpr std::size_t first = 14 + 12 + 9 + 300, pack = 14 + 9 + 300;
    for (const auto& [zeros, holds] : {std::pair{20, true}, {2000, true}, {4000, false}}) {
        auto filled = stream;
        filled.insert(filled.begin() + first + 3 * pack, static_cast<std::size_t>(zeros), 0);
        const auto check = checked(filled);
        EXPECT_EQ(check.complete, holds) << zeros;
        EXPECT_EQ(check.holds_to, holds ? filled.size() : first + 3 * pack) << zeros;
    }
    // Something else than zeros is no filling.
    auto filled = stream;
    filled.insert(filled.begin() + first + 3 * pack, 20, 7);
    EXPECT_EQ(checked(filled).holds_to, first + 3 * pack);
}

TEST(Streams, TheFirstMpegHasHeadsOfItsOwn) {
    ByteVector bytes;
    for (std::uint8_t i = 0; i < 9; ++i) {
        for (const std::uint8_t b :
             {0, 0, 1, 0xBA, 0x21, 0, 1, int{i} << 4, 1, 0x80, 1, 1, 0, 0, 1, 0xE0, 0, 200})
            bytes.push_back(b);
        bytes.resize(bytes.size() + 200, 0x33);
    }
    auto check = checked(bytes);
    EXPECT_EQ(check.format, "mpeg");
    EXPECT_TRUE(check.complete) << check.why;
    // A marker bit that is not set.
    bytes[3 * 218 + 6] = 0;
    check = checked(bytes);
    EXPECT_FALSE(check.complete);
    EXPECT_EQ(check.holds_to, 3 * 218u);
}

TEST(Streams, AWoff2FontIsHeldToItsLengths) {
    const auto font = test::woff2_file();
    const auto with = [&](std::size_t at, std::uint8_t value) {
        auto out = font;
        out[at] = value;
        return checked(out);
    };
    constexpr std::size_t length = 11, tables = 13, packed = 23, first_length = 50, flavor = 4;
    EXPECT_FALSE(with(length, static_cast<std::uint8_t>(font[length] + 4)).complete) << "more than there is";
    EXPECT_FALSE(with(tables, 9).complete);
    EXPECT_FALSE(with(packed, static_cast<std::uint8_t>(font[packed] - 1)).complete);
    EXPECT_EQ(with(first_length, static_cast<std::uint8_t>(font[first_length] ^ 1)).why,
              "its tables do not unpack");
    // A collection has fonts after its directory, or it makes no sense.
    auto collection = font;
    std::copy_n("ttcf", 4, collection.begin() + flavor);
    EXPECT_FALSE(checked(collection).complete);
}

}  // namespace undershelf
