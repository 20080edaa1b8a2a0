#include "fat/first_letter.hpp"

#include <gtest/gtest.h>

#include "support/fat_image.hpp"
#include "support/memory_device.hpp"

namespace undershelf::fat {

namespace {
DirEntry named(const char* name) {
    DirEntry e{};
    std::copy_n(name, 11, e.DIR_Name);
    return e;
}
SeriesLetters letters_of(test::FatImage& image) {
    const auto source = test::memory_source(image.bytes());
    return SeriesLetters(FolderBytes(*source, {{image.cluster_offset(2), image.geometry().cluster_size}}));
}
}  // namespace

TEST(SeriesLetters, TakeTheLetterThatAllNamesOfTheSeriesHave) {
    test::FatImage image;
    image.put(0, "CUE001  CSV", u"", {10}, "a");
    image.put(0, "CUE002  CSV", u"", {11}, "b");
    image.put(0, "OWL     WAV", u"", {12}, "c");
    const auto letters = letters_of(image);
    const auto argued = letters.letter_of(named("\xE5UE417  CSV"));
    ASSERT_TRUE(argued);
    EXPECT_EQ(argued->letter, 'C');
    EXPECT_NE(argued->why.find("2 names"), std::string::npos);
    EXPECT_FALSE(letters.letter_of(named("\xE5UE417  TXT")));
    EXPECT_FALSE(letters.letter_of(named("\xE5WL     WAV")));
}

TEST(SeriesLetters, KnowTheNamesOfABin) {
    test::FatImage image;
    image.put(0, "$I45BXEVHTM", u"", {10}, "a");
    image.put(0, "OWL     WAV", u"", {12}, "c");
    EXPECT_FALSE(letters_of(image).letter_of(named("\xE5IPSCDYGCSV"))) << "one is too few";
    image.put(0, "$R45BXEVHTM", u"", {11}, "b");
    const auto argued = letters_of(image).letter_of(named("\xE5IPSCDYGCSV"));
    ASSERT_TRUE(argued);
    EXPECT_EQ(argued->letter, '$');
    EXPECT_FALSE(letters_of(image).letter_of(named("\xE5IPSCD  CSV")));
    EXPECT_FALSE(letters_of(image).letter_of(named("\xE5OPSCDYGCSV")));
    image.put(0, "PRESSURECSV", u"", {13}, "d");
    EXPECT_FALSE(letters_of(image).letter_of(named("\xE5IPSCDYGCSV"))) << "it is no folder of a bin";
}

TEST(SeriesLetters, AreSilentWhereTheSeriesDisagrees) {
    test::FatImage image;
    image.put(0, "CUE001  CSV", u"", {10}, "a");
    image.put(0, "DUE002  CSV", u"", {11}, "b");
    image.erase(image.put(0, "XUE003  CSV", u"", {12}, "c"));
    EXPECT_FALSE(letters_of(image).letter_of(named("\xE5UE417  CSV")));
}

}  // namespace undershelf::fat
