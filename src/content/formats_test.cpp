#include "content/formats.hpp"

#include <gtest/gtest.h>

#include <functional>
#include <random>

#include "content/glance.hpp"
#include "support/checked.hpp"
#include "support/format_cases.hpp"

namespace undershelf {

namespace {

using test::checked;
using test::MemoryContent;
using test::with_behind;

}  // namespace

TEST(Formats, AWholeFileHoldsToItsEnd) {
    for (const auto& c : test::format_cases()) {
        const auto bytes = c.make();
        const auto check = checked(bytes);
        EXPECT_EQ(check.format, c.format) << check.why;
        EXPECT_TRUE(check.complete) << c.format << ": " << check.why;
        EXPECT_EQ(check.holds_to, bytes.size()) << c.format;
        EXPECT_EQ(check.strength, c.strength) << c.format;
        EXPECT_GE(check.proven_to, c.strength == Strength::strong ? bytes.size() / 2 : 0) << c.format;
        ASSERT_NE(format_named(c.format), nullptr) << c.format;
    }
}

TEST(Formats, TheEndIsToldWhateverStandsBehindIt) {
    for (const auto& c : test::format_cases()) {
        const auto bytes = c.make();
        for (const std::size_t more : {1, 100, 5000}) {
            const auto check = checked(with_behind(bytes, more));
            EXPECT_TRUE(check.complete) << c.format << ": " << check.why;
            EXPECT_EQ(check.holds_to, bytes.size()) << c.format;
        }
        auto zeros = bytes;
        zeros.resize(bytes.size() + 4096);
        EXPECT_EQ(checked(zeros).holds_to, bytes.size()) << c.format;
    }
}

TEST(Formats, AGlanceMissesNone) {
    for (const auto& c : test::format_cases()) {
        const auto bytes = with_behind(c.make(), 600);
        EXPECT_NE(glance(Bytes(bytes).first(512)), Glance::nothing) << c.format;
    }
}

TEST(Formats, WhatIsCutIsNotWhole) {
    for (const auto& c : test::format_cases()) {
        const auto bytes = c.make();
        for (std::size_t length = 16; length < bytes.size() - c.padding; length += 1 + bytes.size() / 150) {
            const auto check = checked({bytes.begin(), bytes.begin() + static_cast<std::ptrdiff_t>(length)});
            EXPECT_FALSE(check.complete) << c.format << " cut at " << length;
            EXPECT_LE(check.holds_to, length) << c.format;
            MemoryContent missing(bytes, length);
            EXPECT_FALSE(check_content(missing).value_or(Check()).complete)
                << c.format << " missing from " << length;
        }
    }
}

TEST(Formats, WrongBytesAreNoticed) {
    for (const auto& c : test::format_cases()) {
        const auto bytes = c.make();
        std::size_t noticed = 0, tried = 0;
        for (std::size_t at = 0; at < bytes.size(); at += 1 + bytes.size() / 400) {
            auto wrong = bytes;
            wrong[at] ^= 0x10;
            const auto check = checked(wrong);
            ++tried;
            noticed += !check.complete || check.holds_to != bytes.size() || check.format != c.format;
            EXPECT_TRUE(check.complete || check.holds_to <= at + format_named(c.format)->delay)
                << c.format << " at " << at << ": " << check.holds_to;
        }
        EXPECT_GE(noticed, c.noticed * static_cast<double>(tried)) << c.format << " of " << tried;
    }
}

TEST(Formats, AnotherFilesBlockIsNoticed) {
    const auto other = test::libretto(512);
    for (const auto& c : test::format_cases()) {
        const auto bytes = c.make();
        // What is only weakly checked, and what decodes to other pixels or rows, may pass.
        if (bytes.size() < 2048 || c.strength < Strength::strong) continue;
        for (std::size_t at = 512; at + 512 <= bytes.size(); at += 512) {
            auto wrong = bytes;
            std::copy(other.begin(), other.end(), wrong.begin() + static_cast<std::ptrdiff_t>(at));
            EXPECT_FALSE(checked(wrong).complete) << c.format << " at " << at;
        }
    }
}

TEST(Formats, NothingIsMadeOfNoise) {
    std::mt19937 random(2);
    for (int i = 0; i < 300; ++i) {
        ByteVector noise(1 + random() % 3000);
        for (auto& b : noise) b = static_cast<std::uint8_t>(random());
        EXPECT_FALSE(checked(noise).complete);
        // After the start of a sound file.
        const auto& c = test::format_cases()[static_cast<std::size_t>(i) % test::format_cases().size()];
        auto spliced = c.make();
        spliced.resize(std::min<std::size_t>(spliced.size(), 8 + random() % 64));
        spliced.insert(spliced.end(), noise.begin(), noise.end());
        // A weak check may find the first and the last bytes as they should be.
        EXPECT_FALSE(c.strength > Strength::weak && checked(spliced).complete) << c.format;
    }
    MemoryContent empty({});
    EXPECT_FALSE(check_content(empty));
}

namespace {

/// Counts what is asked of it.
class CountedContent final : public Content {
  public:
    explicit CountedContent(ByteVector bytes) : content_(std::move(bytes)) {}
    std::uint64_t size() const override { return content_.size(); }
    std::size_t read(std::uint64_t offset, MutableBytes out) override {
        const auto got = content_.read(offset, out);
        asked_ += got;
        return got;
    }
    std::uint64_t asked() const { return asked_; }

  private:
    MemoryContent content_;
    std::uint64_t asked_ = 0;
};

}  // namespace

TEST(Formats, ManySmallStructuresCostNoMoreThanTheyAre) {
    // As many empty boxes, elements, chunks and blocks as find room, after a start that leads to them.
    const auto filled = [](ByteVector start, const ByteVector& unit) {
        while (start.size() < 1 << 20) start.insert(start.end(), unit.begin(), unit.end());
        return start;
    };
    const auto bytes = [](std::string_view text) { return ByteVector(text.begin(), text.end()); };
    auto segment = test::matroska_file(false);
    segment.resize(segment.size() - 32);
    const std::pair<ByteVector, ByteVector> contents[] = {
        {bytes("<cues>"), bytes("<a>")},
        {bytes("<cues>"), bytes("<a/>")},
        {bytes("{\\rtf1"), bytes("{")},
        {bytes("From: a\nTo: b\n\n"), bytes("\n")},
        {test::mp4_file(), {0, 0, 0, 8, 'f', 'r', 'e', 'e'}},
        {test::heif_file(), {0, 0, 0, 8, 'f', 'r', 'e', 'e'}},
        {segment, {0xEC, 0x80}},
        {bytes(std::string_view("RIFF\xff\xff\xff\xff"
                                "AVI ",
                                12)),
         bytes(std::string_view("JUNK\0\0\0\0", 8))},
        {bytes(std::string_view("RIFF\xff\xff\xff\xffWAVE", 12)), bytes(std::string_view("JUNK\0\0\0\0", 8))},
        {bytes(std::string_view("\0\0\1\xba\x44\0\4\0\4\1\0\0\3\xf8", 14)),
         bytes(std::string_view("\0\0\1\xbe\0\0", 6))},
        {bytes(std::string_view("\0MRM\xff\xff\xff\xf0", 8)), ByteVector(8)},
        {bytes(std::string_view("\0MRM\0\x0f\xff\xf0", 8)), {0, 'P', 'A', 'D', 0, 0, 0, 0}},
    };
    for (const auto& [start, unit] : contents) {
        CountedContent content(filled(start, unit));
        const auto check = check_content(content);
        ASSERT_TRUE(check);
        EXPECT_LT(content.asked(), 50 * content.size()) << check->format;
    }
}

TEST(Formats, WhatYieldsTooMuchIsLeftUnfinished) {
    const CheckLimits limits{.most_output = 1 << 20};
    const ByteVector zeros(8 << 20);
    for (const auto& bomb : {test::gzip_file(zeros), test::bzip2_file(zeros), test::xz_file(zeros),
                             test::zstd_file(zeros), test::zip_file({{"bomb", zeros}})}) {
        MemoryContent content(bomb);
        const auto check = check_content(content, limits);
        ASSERT_TRUE(check);
        EXPECT_FALSE(check->finished) << check->format;
        EXPECT_FALSE(check->complete) << check->format;
    }
}

TEST(Formats, RawPicturesOfOtherKindsAreHeldToTheirDirectories) {
    for (const auto& bytes : {test::ciff_file(), test::x3f_file()}) {
        const auto check = checked(bytes);
        EXPECT_EQ(check.format, "raw");
        EXPECT_TRUE(check.complete) << check.why;
        // Their directory ends the file: without it there is nothing to go by.
        EXPECT_FALSE(checked({bytes.begin(), bytes.end() - 1}).complete);
    }
}

TEST(Formats, WhatAsksForTooMuchMemoryIsLeftUnfinished) {
    class Greedy final : public Content {
      public:
        explicit Greedy(ByteVector bytes) : content_(std::move(bytes)) {}
        std::uint64_t size() const override { return content_.size(); }
        std::size_t read(std::uint64_t offset, MutableBytes out) override {
            if (++reads_ > 1) throw std::bad_alloc();
            return content_.read(offset, out);
        }

      private:
        MemoryContent content_;
        int reads_ = 0;
    };
    Greedy content(test::gzip_file(test::libretto(900)));
    const auto check = check_content(content);
    ASSERT_TRUE(check);
    EXPECT_EQ(check->format, "gzip");
    EXPECT_FALSE(check->finished);
    EXPECT_FALSE(check->complete);
}

TEST(Formats, WhatGrowsBeyondAllMeasureIsLeftUnfinished) {
    const ByteVector zeros(64 << 20);
    for (const auto& bomb : {test::gzip_file(zeros), test::bzip2_file(zeros), test::xz_file(zeros),
                             test::zstd_file(zeros), test::zip_file({{"zeros", zeros}})}) {
        ASSERT_LT(bomb.size(), 1u << 20);
        MemoryContent content(bomb);
        const auto check = check_content(content);
        ASSERT_TRUE(check);
        EXPECT_FALSE(check->finished) << check->format;
        EXPECT_FALSE(check->complete) << check->format;
        EXPECT_EQ(check->why, yields_too_much);
    }
    // What shrinks well, and is not that large, is a file like any other.
    EXPECT_TRUE(checked(test::gzip_file(ByteVector(8 << 20))).complete);
}

TEST(Formats, OneByteInTwoHundredMayBeUncovered) {
    EXPECT_EQ(strong_unless(5, 1000), Strength::strong);
    EXPECT_EQ(strong_unless(6, 1000), Strength::fair);
}

TEST(Formats, ZipHeadsThatContradictMakeACheckFair) {
    const auto whole =
        test::zip_file({{"act one.csv", test::libretto(90'000)}, {"act two.csv", test::libretto(90'000)}});
    ASSERT_EQ(checked(whole).strength, Strength::strong);
    const std::string text(whole.begin(), whole.end());
    const auto directory = text.find("PK\1\2"), end = text.find("PK\5\6");
    const auto changed = [&](std::size_t at, std::uint8_t by) {
        auto bytes = whole;
        bytes[at] = static_cast<std::uint8_t>(bytes[at] ^ by);
        return checked(bytes);
    };
    // Version, flags, date and length of a member's head; the same, system, attributes and disk in the
    // directory; the directory's length and place.
    for (const std::size_t at : {std::size_t{4}, std::size_t{7}, std::size_t{12}, std::size_t{23},
                                 directory + 5, directory + 6, directory + 9, directory + 14, directory + 25,
                                 directory + 34, directory + 39, end + 13, end + 17}) {
        const auto check = changed(at, 0x40);
        EXPECT_FALSE(check.complete && check.strength == Strength::strong) << at;
    }
    // An encrypted member cannot be looked into.
    EXPECT_LT(changed(6, 1).strength, Strength::fair);
}

TEST(Formats, APictureMayBeginWithAnySegment) {
    auto bytes = test::jpeg_file();
    // Of an application that nobody knows, longer than what is looked at first.
    ByteVector segment{0xFF, 0xEB, 0x40, 0x00};
    segment.resize(2 + 0x4000, 7);
    bytes.insert(bytes.begin() + 2, segment.begin(), segment.end());
    const auto check = checked(bytes);
    EXPECT_EQ(check.format, "jpeg");
    EXPECT_TRUE(check.complete) << check.why;
}

TEST(Formats, WhatHasNoToldLengthIsSearchedForWithinALimit) {
    const std::string start = "%PDF-1.4\n1 0 obj\n<< /Length 2 0 R >>\nstream\n";
    ByteVector bytes(start.begin(), start.end());
    bytes.resize(4 << 20, 'x');
    CountedContent all(bytes), some(bytes);
    EXPECT_FALSE(check_content(all)->complete);
    EXPECT_FALSE(check_content(some, {.most_searched = 64 << 10})->complete);
    EXPECT_GT(all.asked(), bytes.size() / 2);
    EXPECT_LT(some.asked(), std::uint64_t{1} << 20);
}

TEST(Formats, AHeadThatIsWrongBesideItsMarkWasWrittenSo) {
    auto archive = test::rar_file();
    archive[9] ^= 1;
    test::MemoryContent packed(archive);
    EXPECT_TRUE(check_content(packed)->odd_head);
}

TEST(Formats, AFileInSeveralPartsGoesOn) {
    const auto text = test::libretto(3000);
    for (const auto& one :
         {test::gzip_file(text), test::bzip2_file(text), test::xz_file(text), test::zstd_file(text)}) {
        auto two = one;
        two.insert(two.end(), one.begin(), one.end());
        const auto check = checked(two);
        EXPECT_TRUE(check.complete) << check.format;
        EXPECT_EQ(check.holds_to, two.size()) << check.format;
    }
    // Without a checksum an xz stream proves nothing.
    EXPECT_EQ(checked(test::xz_file(text, false)).strength, Strength::fair);
}

}  // namespace undershelf
