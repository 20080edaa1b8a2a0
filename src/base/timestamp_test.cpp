#include "base/timestamp.hpp"

#include <gtest/gtest.h>

namespace undershelf {

TEST(Timestamp, PrintsIso8601) {
    const auto ticks = seconds_from_civil({2024, 3, 1, 9, 5, 7}) * Timestamp::per_second;
    EXPECT_EQ(iso8601({ticks, 0}), "2024-03-01T09:05:07Z");
    EXPECT_EQ(iso8601({ticks, Timestamp::local}), "2024-03-01T09:05:07");
    EXPECT_EQ(iso8601({ticks, 90}), "2024-03-01T10:35:07+01:30");
    EXPECT_EQ(iso8601({ticks + 500'000, -60}), "2024-03-01T08:05:07.05-01:00");
}

TEST(Timestamp, ReachesBackBehind1970) {
    const auto ticks = seconds_from_civil({1904, 1, 1, 0, 0, 0}) * Timestamp::per_second;
    EXPECT_LT(ticks, 0);
    EXPECT_EQ(iso8601({ticks, 0}), "1904-01-01T00:00:00Z");
    EXPECT_EQ(iso8601({ticks - 1, 0}), "1903-12-31T23:59:59.9999999Z");
}

TEST(Timestamp, KnowsTheCalendar) {
    EXPECT_TRUE(is_valid({2024, 2, 29, 0, 0, 0}));
    EXPECT_FALSE(is_valid({2023, 2, 29, 0, 0, 0}));
    EXPECT_FALSE(is_valid({2023, 0, 1, 0, 0, 0}));
    EXPECT_FALSE(is_valid({2023, 1, 1, 24, 0, 0}));
}

TEST(ParseDate, CoversWhatIsWritten) {
    const auto length = [](const char* text) {
        return (parse_date(text)->last - parse_date(text)->first + 1) / Timestamp::per_second;
    };
    EXPECT_EQ(length("2024"), 366 * 86400);
    EXPECT_EQ(length("2024-02"), 29 * 86400);
    EXPECT_EQ(length("2024-12"), 31 * 86400);
    EXPECT_EQ(length("2024-03-01"), 86400);
    EXPECT_EQ(length("2024-03-01T09:30"), 60);
    EXPECT_EQ(length("2024-03-01 09:30:10"), 1);
    EXPECT_EQ(length("today"), 86400);
}

TEST(ParseDate, CountsBackFromTheDayOnTheWall) {
    const CivilTime now{2024, 3, 1, 23, 59, 0};
    const auto day = [&](const char* text) {
        const auto span = parse_date(text, now);
        EXPECT_EQ(span->last - span->first + 1, 86400 * Timestamp::per_second) << text;
        return iso8601({span->first, Timestamp::local});
    };
    EXPECT_EQ(day("today"), "2024-03-01T00:00:00");
    EXPECT_EQ(day("yesterday"), "2024-02-29T00:00:00");
    EXPECT_EQ(day("7d"), "2024-02-23T00:00:00");
    EXPECT_EQ(day("2w"), "2024-02-16T00:00:00");
    EXPECT_FALSE(parse_date("999999999d", now));
}

TEST(ParseDate, RefusesWhatIsNone) {
    for (const char* text :
         {"", "24", "2024-13", "2024-02-30", "2024-03-01T9", "tomorrow", "d", "-3d", "3x", "2024-03-01x", "2024-3-1"}) {
        EXPECT_FALSE(parse_date(text)) << text;
    }
}

}  // namespace undershelf
