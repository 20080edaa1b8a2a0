#include "unnamed/measure.hpp"

#include <gtest/gtest.h>

#include "content/formats.hpp"
#include "support/memory_content.hpp"
#include "support/memory_device.hpp"

namespace undershelf {

namespace {

constexpr std::size_t step = 4096;

/// What a content comes to that is at a cluster's start, with `after` at the next one.
struct Measuring {
    ByteVector bytes;
    std::uint64_t next = 0;            ///< where the next content is recognised; 0 for nowhere
    std::uint64_t start = 0, end = 0;  ///< of the stretch; 0 for that of all bytes

    Measuring(const ByteVector& content, const ByteVector& behind) : bytes(content) {
        bytes.resize((bytes.size() + step - 1) / step * step);
        bytes.insert(bytes.end(), behind.begin(), behind.end());
        bytes.resize((bytes.size() + step - 1) / step * step);
    }
    std::optional<Measured> run() const {
        const auto source = test::memory_source(bytes);
        Stretch stretch;
        stretch.start = start;
        stretch.end = end ? end : bytes.size();
        stretch.step = step;
        stretch.next_start = [&](std::uint64_t from, const Format&, std::uint64_t) {
            return next >= from && next > 0 ? next : stretch.end;
        };
        std::uint64_t read = 0;
        ReadHere reading;
        return measure(*source, stretch, Progress(), read, reading);
    }
};

ByteVector noise(std::size_t length) {
    ByteVector out(length);
    std::uint32_t x = 7;
    for (auto& b : out) b = static_cast<std::uint8_t>((x = x * 1664525 + 1013904223) >> 24);
    return out;
}

}  // namespace

TEST(Measure, WhatHasAnEndEndsThere) {
    for (const auto& content : {test::png_file(), test::zip_file({{"cue sheet.csv", test::libretto(6000)}}),
                                test::wav_file(), test::flac_file()}) {
        const auto found = Measuring(content, noise(9000)).run();
        ASSERT_TRUE(found);
        EXPECT_EQ(found->range, (ByteRange{0, content.size()})) << found->format;
        EXPECT_EQ(found->ending, Ending::structure);
        EXPECT_EQ(found->proven(), found->check.strength >= Strength::fair);
    }
}

TEST(Measure, ATextEndsWhereZerosBegin) {
    const auto content = test::libretto(5000);
    const auto found = Measuring(content, noise(9000)).run();
    ASSERT_TRUE(found);
    EXPECT_EQ(found->range.length, content.size());
    EXPECT_EQ(found->ending, Ending::zeros);
    EXPECT_TRUE(found->check.complete);
    EXPECT_FALSE(found->proven());
    EXPECT_TRUE(found->zeros_behind);
    // One that fills its clusters to the last byte has no end to be seen.
    const auto cut = Measuring(test::libretto(2 * step), noise(9000)).run();
    ASSERT_TRUE(cut);
    EXPECT_EQ(cut->ending, Ending::cut);
    EXPECT_EQ(cut->range.length, 2 * step);
    // A few characters are none.
    EXPECT_FALSE(Measuring({'A', 'c', 't', ' ', 'o', 'n', 'e', '.', ' '}, {}).run());
}

/// The content in a cluster whose rest, from the end of the last sector on, has older data.
Measuring with_older_data(const ByteVector& content, const ByteVector& older) {
    Measuring out(content, noise(9000));
    const auto from = (content.size() + 511) / 512 * 512;
    for (auto i = from; i % step != 0; ++i) out.bytes[i] = older[i - from];
    return out;
}

TEST(Measure, WritersZeroNoMoreThanTheLastSector) {
    for (const auto& older : {noise(step), test::libretto(step)}) {
        // However few zeros there are, and whatever follows.
        for (const std::size_t size : {5000, 5119}) {
            const auto found = with_older_data(test::libretto(size), older).run();
            ASSERT_TRUE(found);
            EXPECT_EQ(found->range.length, size);
            EXPECT_EQ(found->ending, Ending::zeros);
        }
    }
    // A text that fills its last sector ends where other data begin, in the middle of a cluster.
    const auto full = with_older_data(test::libretto(5120), noise(step)).run();
    ASSERT_TRUE(full);
    EXPECT_EQ(full->range.length, 5120u);
    EXPECT_EQ(full->ending, Ending::zeros);
    // And a stream without an end of its own where its last packet does.
    auto film = test::transport_stream(192);
    film.resize(film.size() / (192 * 8) * 192 * 8);  // whole sectors
    ASSERT_NE(film.size() % step, 0u);
    const auto stream = with_older_data(film, noise(step)).run();
    ASSERT_TRUE(stream);
    EXPECT_EQ(stream->range.length, film.size());
    EXPECT_TRUE(stream->proven());
}

TEST(Measure, TextOfTwoBytesHasZeros) {
    const auto text = test::utf16_file(false);
    const auto found = Measuring(text, {}).run();
    ASSERT_TRUE(found);
    EXPECT_GE(found->range.length, text.size() - 1);
}

TEST(Measure, WhatHoldsUpToSomebodysBytesReachesThem) {
    const auto picture = test::jpeg_file();
    Measuring cut(picture, noise(9000));
    cut.end = picture.size() - 300;
    const auto found = cut.run();
    ASSERT_TRUE(found);
    EXPECT_EQ(found->range.length, cut.end);
    EXPECT_EQ(found->cut_by, "somebody else's bytes begin");
}

TEST(Measure, WhatBreaksIsCutWhereSomethingElseBegins) {
    auto broken = test::zip_file({{"a.txt", test::libretto(30'000)}, {"b.txt", test::libretto(30'000)}});
    const auto size = broken.size() / step * step;
    broken.resize(size);
    Measuring next(broken, noise(9 * step));
    next.next = size + 2 * step;
    const auto found = next.run();
    ASSERT_TRUE(found);
    EXPECT_EQ(found->ending, Ending::cut);
    EXPECT_EQ(found->range.length, size + 2 * step);
    EXPECT_EQ(found->cut_by, "another content begins");
    EXPECT_FALSE(found->check.complete);
    // Zeros are no part of what is packed throughout.
    Measuring zeros(broken, ByteVector(9 * step));
    EXPECT_EQ(zeros.run()->range.length, size);
    // Where somebody else's bytes begin it ends at the latest.
    Measuring claimed(broken, noise(9 * step));
    claimed.end = size + step;
    EXPECT_EQ(claimed.run()->range.length, size + step);
}

TEST(Measure, LengthsThatLieAreNotBelieved) {
    auto lying = test::wav_file();
    for (std::size_t i = 4; i < 8; ++i) lying[i] = 0x7F;
    for (std::size_t i = 40; i < 44; ++i) lying[i] = 0x7F;
    Measuring measuring(lying, noise(20 * step));
    measuring.next = measuring.bytes.size() - 4 * step;
    const auto found = measuring.run();
    ASSERT_TRUE(found);
    EXPECT_EQ(found->ending, Ending::cut);
    EXPECT_LE(found->range.length, measuring.next);
}

TEST(Measure, WhatEndsItsFileEndsBeforeZeros) {
    const auto picture = test::ciff_file();
    const auto found = Measuring(picture, noise(9000)).run();
    ASSERT_TRUE(found);
    EXPECT_EQ(found->range.length, picture.size());
    EXPECT_EQ(found->ending, Ending::zeros);
    EXPECT_EQ(found->format, "raw");
}

TEST(Measure, ABytesBehindTheEndBelongToItWhereZerosFollow) {
    auto gif = test::gif_file();
    gif.resize((gif.size() + 511) / 512 * 512 - 100);
    gif.push_back('x');
    const auto found = Measuring(gif, noise(9000)).run();
    ASSERT_TRUE(found);
    EXPECT_EQ(found->range.length, gif.size());
    EXPECT_EQ(found->ending, Ending::zeros);
    EXPECT_LT(found->check.holds_to, gif.size());
}

TEST(Measure, WhatBreaksFarWithinItsFirstPartIsNoFalseStart) {
    // What packs by a quarter: foreign bytes show soon in it.
    auto packable = noise(40000);
    for (auto& b : packable) b &= 0x3F;
    auto content = test::zip_file({{"act 1.bin", packable}});
    content.resize(5 * step);
    auto measuring = Measuring(content, noise(9000));
    measuring.next = 5 * step;
    const auto found = measuring.run();
    ASSERT_TRUE(found);
    EXPECT_EQ(found->range.length, 5 * step);
    EXPECT_EQ(found->ending, Ending::cut);
    EXPECT_FALSE(found->check.complete);
}

TEST(Measure, BytesBehindTheEndThatFillASectorBelongToItWhereTheNextIsZeros) {
    auto content = test::wav_file();
    const auto end = content.size();
    content.resize((end / 512 + 1) * 512, 0x55);
    const auto found = Measuring(content, noise(9000)).run();
    ASSERT_TRUE(found);
    EXPECT_EQ(found->range.length, content.size() % step ? content.size() : end);
}

TEST(Measure, NothingIsLookedAtAfterAStretchThatEndsWithinASector) {
    const auto content = test::png_file();
    auto bytes = content;
    bytes.insert(bytes.end(), 20, 'x');
    bytes.resize(bytes.size() + 30);
    Measuring whole(bytes, noise(9000));
    std::fill(whole.bytes.begin() + static_cast<std::ptrdiff_t>(bytes.size()), whole.bytes.end(), 'y');
    whole.bytes.insert(whole.bytes.begin(), step, 'z');
    whole.start = step;
    whole.end = step + bytes.size();
    ASSERT_NE(whole.end % 512, 0u);
    const auto found = whole.run();
    ASSERT_TRUE(found);
    EXPECT_EQ(found->range, (ByteRange{step, content.size() + 20}));
    EXPECT_EQ(found->ending, Ending::zeros);
    EXPECT_TRUE(found->zeros_behind);
}

TEST(Measure, AZeroBehindALetterMayBeItsOwn) {
    const std::string letter = "{\\rtf1 " + std::string(200, 'a') + "}";
    const auto found = Measuring({letter.begin(), letter.end()}, {}).run();
    ASSERT_TRUE(found);
    EXPECT_TRUE(found->check.loose_end);
    EXPECT_FALSE(found->proven());
}

TEST(Measure, AFalseStartIsNothing) {
    auto false_start = noise(5 * step);
    const ByteVector mark{0xFF, 0xD8, 0xFF, 0xE3, 0, 9};
    std::copy(mark.begin(), mark.end(), false_start.begin());
    EXPECT_FALSE(Measuring(false_start, {}).run());
    std::uint64_t read = 0;
    ReadHere reading;
    EXPECT_FALSE(measure(*test::memory_source(noise(step)), {0, step, step, {}}, Progress(), read, reading));
}

}  // namespace undershelf
