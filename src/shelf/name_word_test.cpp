#include "shelf/name_word.hpp"

#include <gtest/gtest.h>

namespace undershelf {

namespace {
constexpr auto no_unknown = std::string_view::npos;

bool fits(std::string_view name, std::string_view word, std::size_t unknown = no_unknown) {
    const auto w = name_word(word);
    return passes(name, w.how, w.text, unknown);
}
}  // namespace

TEST(NameWord, AWordIsSomewhereInTheName) {
    EXPECT_TRUE(fits("late summer.txt", "summer"));
    EXPECT_TRUE(fits("img[1].jpg", "[1]"));
    EXPECT_FALSE(fits("autumn.txt", "summer"));
    EXPECT_FALSE(name_word("summer").on_path);
}

TEST(NameWord, APatternFitsAllOfIt) {
    EXPECT_TRUE(fits("act-1.txt", "act-?.txt"));
    EXPECT_FALSE(fits("fact-1.txt", "act-?.txt"));
    EXPECT_TRUE(name_word("scripts/*").on_path);
    EXPECT_EQ(name_word("/winter.txt").text, "winter.txt");
}

TEST(NameWord, AfterAnEqualsSignItIsTheName) {
    EXPECT_TRUE(fits("a.txt", "=a.txt"));
    EXPECT_FALSE(fits("a.txt.bak", "=a.txt"));
    EXPECT_TRUE(fits("what*.txt", "=what*.txt"));
    EXPECT_FALSE(fits("whatever.txt", "=what*.txt"));
    EXPECT_TRUE(name_word("=scripts/a.txt").on_path);
    // Nothing is after it.
    EXPECT_TRUE(fits("a=b.txt", "="));
}

TEST(NameWord, ALostLetterMayBeAny) {
    EXPECT_TRUE(fits("_rops.csv", "props", 0));
    EXPECT_TRUE(fits("_rops.csv", "=crops.csv", 0));
    EXPECT_TRUE(fits("act/_rops.csv", "=act/props.csv", 4));
    EXPECT_FALSE(fits("_rops.csv", "xprops", 0));
    EXPECT_FALSE(fits("_rops.csv", "=rops.csv", 0));
    EXPECT_FALSE(fits("_rops.csv", "props"));
    EXPECT_TRUE(fits("_", "x", 0));
}

TEST(NameWord, AThousandStarsCostNothingMuch) {
    std::string pattern;
    for (int i = 0; i < 1000; ++i) pattern += "*a";
    EXPECT_FALSE(fits(std::string(2000, 'b'), pattern));
    EXPECT_TRUE(fits(std::string(2000, 'a'), pattern));
}

}  // namespace undershelf
