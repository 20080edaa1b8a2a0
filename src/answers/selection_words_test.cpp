#include "answers/selection_words.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "base/error.hpp"

namespace undershelf {

namespace {

using ::testing::ElementsAre;
using ::testing::HasSubstr;

std::string refusal(const Said& said) {
    try {
        selection_from(said);
    } catch (const Error& e) {
        return e.what();
    }
    return "taken";
}

}  // namespace

TEST(SelectionWords, AreTakenByOption) {
    const auto s = selection_from({{"id", {"4,7", "9"}},
                                   {"kind", {"Picture,mail"}},
                                   {"grade", {"likely+"}},
                                   {"origin", {"former"}},
                                   {"checked", {"fair,strong"}},
                                   {"lost", {}},
                                   {"helpers", {}}});
    EXPECT_THAT(s.ids, ElementsAre(4, 7, 9));
    EXPECT_THAT(s.kinds, ElementsAre(Kind::picture, Kind::mail));
    ASSERT_EQ(s.grades.size(), 1u);
    EXPECT_TRUE(s.grades[0].or_better);
    EXPECT_EQ(s.grades[0].grade, Grade::likely);
    EXPECT_THAT(s.origins, ElementsAre(Origin::former));
    EXPECT_THAT(s.checked, ElementsAre(Strength::fair, Strength::strong));
    EXPECT_TRUE(s.lost);
    EXPECT_FALSE(s.no_helpers);
    EXPECT_TRUE(selection_from({}).no_helpers);
}

TEST(SelectionWords, ReadRangesOpenOnOneSide) {
    const auto s =
        selection_from({{"size", {"10k..2M"}}, {"modified", {"2024-03.."}}, {"created", {"..2024"}}});
    EXPECT_EQ(s.size->from, 10u << 10);
    EXPECT_EQ(s.size->to, 2u << 20);
    EXPECT_TRUE(s.modified->from && !s.modified->to);
    EXPECT_TRUE(!s.created->from && s.created->to);
    EXPECT_EQ(selection_from({{"size", {"500"}}}).size->to, 500u);
}

TEST(SelectionWords, SayWhatTheyDoNotTake) {
    EXPECT_THAT(refusal({{"kind", {"puppet"}}}), HasSubstr("`puppet` is not a kind"));
    EXPECT_THAT(refusal({{"content", {"jpg"}}}), HasSubstr("Unknown format `jpg`; known: png, jpeg"));
    EXPECT_THAT(refusal({{"size", {"2M..10k"}}}), HasSubstr("ends before it begins"));
    EXPECT_THAT(refusal({{"size", {"-1"}}}), HasSubstr("is not a size"));
    EXPECT_THAT(refusal({{"id", {"4x"}}}), HasSubstr("is not a number"));
    EXPECT_THAT(refusal({{"ext", {","}}}), HasSubstr("--ext needs at least one value"));
    EXPECT_THAT(refusal({{"same-as", {}}}), HasSubstr("--same-as takes one value"));
    EXPECT_THAT(refusal({{"modified", {"spring"}}}), HasSubstr("is not a date"));
}

TEST(SelectionWords, OfASortSayTheDirection) {
    const auto keys = sort_from({{"sort", {"-size,holds-to"}}});
    ASSERT_EQ(keys.size(), 2u);
    EXPECT_TRUE(keys[0].descending);
    EXPECT_EQ(keys[1].column, "holds_to");
    EXPECT_THROW(sort_from({{"sort", {"colour"}}}), Error);
    EXPECT_TRUE(sort_from({}).empty());
}

TEST(SelectionWords, NarrowASearch) {
    EXPECT_THAT(narrowing_from({{"ext", {".JPG"}}}).exts, ElementsAre("jpg"));
    EXPECT_THROW(narrowing_from({{"kind", {"mail"}}, {"content", {"png"}}}), Error);
}

TEST(SelectionWords, HaveAHelpForEachOption) {
    for (const auto& o : selection_options()) EXPECT_GT(std::string_view(o.help).size(), 8u) << o.name;
}

}  // namespace undershelf
