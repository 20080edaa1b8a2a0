#include "ntfs/told_names.hpp"

#include <gtest/gtest.h>

#include "ntfs/series_dates.hpp"

namespace undershelf::ntfs {

namespace {
Name named(const std::u16string& text, std::int64_t created) {
    Name n;
    n.name = text;
    if (created) n.created = Timestamp{created, 0};
    return n;
}
}  // namespace

TEST(NtfsToldNames, KnowsNamesByFolderTextAndTime) {
    ToldNames told;
    told.add_recorded(name_print(30, named(u"play.txt", 100)));
    EXPECT_FALSE(told.add(name_print(30, named(u"play.txt", 100)), true));
    EXPECT_TRUE(told.add(name_print(31, named(u"play.txt", 100)), true));
    EXPECT_TRUE(told.add(name_print(30, named(u"play.txt", 200)), true));
    EXPECT_FALSE(told.add(name_print(30, named(u"play.txt", 200)), true));
    EXPECT_TRUE(told.has_other(name_print(30, named(u"play.txt", 200))));
    EXPECT_FALSE(told.has_other(name_print(30, named(u"play.txt", 100))));
}

TEST(NtfsToldNames, NamesWithoutATimeAreToldByAnyOfTheirs) {
    ToldNames told;
    told.add_recorded(name_print(30, named(u"play.txt", 100)));
    EXPECT_FALSE(told.add(name_print(30, named(u"play.txt", 0)), false));
    EXPECT_TRUE(told.add(name_print(30, named(u"poster.png", 300)), true));
    EXPECT_FALSE(told.add(name_print(30, named(u"poster.png", 0)), false));
    EXPECT_TRUE(told.add(name_print(30, named(u"ledger.csv", 0)), false));
    EXPECT_FALSE(told.add(name_print(30, named(u"ledger.csv", 0)), false));
}

TEST(NtfsSeriesDates, ArguesFromNamesThatWereWrittenTogether) {
    const auto at = [](std::int64_t minutes) { return Timestamp{minutes * 60 * Timestamp::per_second, 0}; };
    SeriesDates dates;
    dates.add(u"cue 01.txt", at(100));
    EXPECT_FALSE(dates.date_of(u"cue 02.txt"));  // one is none
    dates.add(u"cue 03.txt", at(110));
    dates.add(u"cue.txt", at(500));
    dates.add(u"cue 04.txt", std::nullopt);
    ASSERT_TRUE(dates.date_of(u"cue 02.txt"));
    EXPECT_EQ(dates.date_of(u"cue 02.txt")->modified, at(110));
    EXPECT_EQ(dates.date_of(u"cue 02.txt")->names, 2u);
    EXPECT_FALSE(dates.date_of(u"cue.txt"));
    EXPECT_FALSE(dates.date_of(u"cue 002.txt"));
    dates.add(u"cue 09.txt", at(400));  // written another day
    EXPECT_FALSE(dates.date_of(u"cue 02.txt"));
}

}  // namespace undershelf::ntfs
