#include "scan/narrowing.hpp"

#include <gtest/gtest.h>

#include "content/signature.hpp"

namespace undershelf {

TEST(Narrowing, AllowsEverythingUnlessSaid) {
    const Narrowing all;
    EXPECT_TRUE(all.empty());
    for (const auto& f : formats()) EXPECT_TRUE(all.wants(f)) << f.word;
    EXPECT_TRUE(all.may_want_name("xyz"));
}

TEST(Narrowing, KindsExtensionsAndFormatsMustAllFit) {
    const Narrowing pictures{{Kind::picture}, {}, {}};
    EXPECT_TRUE(pictures.wants(*format_named("png")));
    EXPECT_FALSE(pictures.wants(*format_named("flac")));
    EXPECT_TRUE(pictures.may_want_name("jpg"));
    EXPECT_FALSE(pictures.may_want_name("flac"));
    EXPECT_TRUE(pictures.may_want_name("dat"));
    // An alias may have had a longer extension.
    const Narrowing books{{}, {}, {"docx"}};
    EXPECT_FALSE(books.may_want_name("doc"));
    EXPECT_TRUE(books.may_want_name(content_extension("LETTER~1.DOC")));
    const Narrowing one{{Kind::picture}, {"jpg", "flac"}, {}};
    EXPECT_EQ(one.words(), " jpeg ");
    const Narrowing none{{Kind::audio}, {}, {"png"}};
    EXPECT_EQ(none.words(), " ");
}

TEST(Narrowing, OfAFamilyTheStartTellsTheFamilyAlone) {
    const Narrowing letters{{}, {}, {"docx"}};
    EXPECT_TRUE(letters.may_want(*format_named("zip")));
    EXPECT_FALSE(letters.wants(*format_named("zip")));
    EXPECT_FALSE(letters.may_want(*format_named("png")));
}

TEST(Narrowing, WhatWasAskedForBeforeStays) {
    const Narrowing pictures{{Kind::picture}, {}, {}}, sounds{{Kind::audio}, {}, {}};
    const auto both = sounds.joined(pictures.words());
    EXPECT_TRUE(pictures.within(both.words()));
    EXPECT_TRUE(sounds.within(both.words()));
    EXPECT_FALSE(Narrowing().within(both.words()));
    EXPECT_TRUE(both.joined(Narrowing().words()).empty());
    EXPECT_TRUE(sounds.within(Narrowing().words()));
    EXPECT_FALSE(sounds.within(""));
}

}  // namespace undershelf
