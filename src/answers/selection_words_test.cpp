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
    EXPECT_THAT(s.ids.ranges(), ElementsAre(ByteRange{4, 1}, ByteRange{7, 1}, ByteRange{9, 1}));
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

TEST(SelectionWords, TakeRangesOfNumbers) {
    const auto s = selection_from({{"id", {"10-20,25", "21"}}});
    EXPECT_THAT(s.ids.ranges(), ElementsAre(ByteRange{10, 12}, ByteRange{25, 1}));
    for (const char* wrong : {"20-10", "-5", "5-", "1-2-3", "99999999999999999999"})
        EXPECT_THAT(refusal({{"id", {wrong}}}), HasSubstr("is not a number")) << wrong;
}

TEST(SelectionWords, SayWhatIsNotWanted) {
    const auto s = selection_from({{"not-kind", {"text,other"}},
                                   {"not-ext", {"tmp"}},
                                   {"not-name", {"draft, old"}},
                                   {"not-under", {"Old season"}}});
    EXPECT_THAT(s.not_kinds, ElementsAre(Kind::text, Kind::other));
    EXPECT_THAT(s.not_exts, ElementsAre("tmp"));
    // Names may have commas.
    EXPECT_THAT(s.not_names, ElementsAre("draft, old"));
    EXPECT_THAT(s.not_under, ElementsAre("Old season"));
}

TEST(SelectionWords, TakeDatesThatAreMissingAndThoseBeforeToday) {
    EXPECT_TRUE(selection_from({{"modified", {"none"}}}).modified->absent);
    const auto week = selection_from({{"deleted", {"7d.."}}});
    EXPECT_TRUE(week.deleted->from && !week.deleted->to);
    EXPECT_LT(*week.deleted->from, *selection_from({{"accessed", {"yesterday"}}}).accessed->from);
}

TEST(SelectionWords, TakeMarksWithAndWithoutAName) {
    EXPECT_TRUE(selection_from({{"marked", {}}}).marked);
    EXPECT_THAT(selection_from({{"marked", {"wedding"}}}).marks, ElementsAre("wedding"));
    EXPECT_FALSE(selection_from({}).marked);
}

TEST(SelectionWords, SayWhatTheyDoNotTake) {
    EXPECT_THAT(refusal({{"kind", {"puppet"}}}), HasSubstr("`puppet` is not a kind"));
    EXPECT_THAT(refusal({{"content", {"jpg"}}}),
                HasSubstr("There is no format `jpg`. Did you mean `jpeg`? The formats are png, jpeg"));
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
