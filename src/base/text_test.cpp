#include "base/text.hpp"

#include <gtest/gtest.h>

#include "base/error.hpp"

namespace undershelf {

TEST(Text, ComposesNames) {
    EXPECT_EQ(utf8_from_utf16(u"Fa\u0308den"), "Fäden");
    EXPECT_EQ(composed("Fa\xCC\x88"
                       "den"),
              "Fäden");
    // A mark that has no composed form with its letter stays.
    EXPECT_EQ(utf8_from_utf16(u"Zx\u0301\u0323"), "Zx\xCC\xA3\xCC\x81");
    EXPECT_EQ(utf8_from_utf16(u"\u0301"), "\xCC\x81");
    EXPECT_EQ(utf8_from_utf16(u"\U0001F34F"), "\xF0\x9F\x8D\x8F");
}

TEST(Text, SurvivesBrokenUnicode) {
    const char16_t lone[] = {u'a', 0xD800, u'b', 0};
    EXPECT_EQ(utf8_from_utf16(lone),
              "a\xEF\xBF\xBD"
              "b");
    EXPECT_EQ(composed("a\xFF"
                       "b"),
              "a\xEF\xBF\xBD"
              "b");
}

TEST(Text, Folds) {
    EXPECT_EQ(folded("Maße.TXT"), "masse.txt");
    EXPECT_EQ(folded("FÄDEN"), folded("fa\xCC\x88"
                                      "den"));
}

TEST(Glob, MatchesWholeNames) {
    EXPECT_TRUE(matches_glob("act 1.txt", "*.txt"));
    EXPECT_TRUE(matches_glob("act 1.txt", "act ?.*"));
    EXPECT_TRUE(matches_glob("操り人形", "操?人*"));
    EXPECT_TRUE(matches_glob("b7", "[a-c][!1-5]"));
    EXPECT_TRUE(matches_glob("a[b", "a[b"));
    EXPECT_TRUE(matches_glob("", "*"));
    EXPECT_FALSE(matches_glob("act 1.txt", "*.tx"));
    EXPECT_FALSE(matches_glob("b3", "[a-c][!1-5]"));
    EXPECT_FALSE(matches_glob("x", ""));
}

TEST(Glob, LetsAnUnknownCharacterStandForAny) {
    EXPECT_TRUE(matches_glob("_ue 1.csv", "cue*.csv", 0));
    EXPECT_TRUE(matches_glob("_ue 1.csv", "[c-d]ue*", 0));
    EXPECT_TRUE(matches_glob("props/_ue.csv", "props/cue.*", 6));
    EXPECT_TRUE(matches_glob("_", "ß", 0));
    EXPECT_FALSE(matches_glob("_ue 1.csv", "ccue*", 0));
    EXPECT_FALSE(matches_glob("_ue 1.csv", "cux*", 0));
    EXPECT_FALSE(matches_glob("_ue 1.csv", "cue*"));
}

TEST(Glob, TakesNoExponentialTime) {
    EXPECT_FALSE(matches_glob(std::string(3000, 'a'), "*a*a*a*a*a*a*a*a*a*a*a*b"));
}

TEST(Extension, IsFoldedAndNeedsAName) {
    EXPECT_EQ(extension_of("Poster.PDF"), "pdf");
    EXPECT_EQ(extension_of("archive.tar.gz"), "gz");
    EXPECT_TRUE(lists_word(" tif tiff ", "tif"));
    EXPECT_FALSE(lists_word(" tiff ", "tif"));
    EXPECT_FALSE(lists_word(" tif ", ""));
    EXPECT_EQ(extension_of(".profile"), "");
    EXPECT_EQ(extension_of("name."), "");
}

TEST(Alias, HasATildeAndANumber) {
    for (const auto* name : {"PROGRA~1", "LETTER~1.DOC", "A~123456", "A1B2~12.H"})
        EXPECT_TRUE(is_alias(name)) << name;
    for (const auto* name : {"PROGRAMS~1", "LETTER~.DOC", "LETTER~1.DOCX", "LET~1A.DOC", "LETTER.DO1", "~"})
        EXPECT_FALSE(is_alias(name)) << name;
}

TEST(CodePage, ReadsOemBytes) {
    const std::uint8_t bytes[] = {0x81, 'b', 0x9A};
    EXPECT_EQ(CodePage("437").utf8(bytes), "übÜ");
    EXPECT_EQ(CodePage("850").utf8(bytes), "übÜ");
    EXPECT_THROW(CodePage("99999"), Error);
}

}  // namespace undershelf
