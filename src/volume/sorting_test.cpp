#include "volume/sorting.hpp"

#include <gtest/gtest.h>

namespace undershelf {

TEST(Sorting, IsByNameWhereTheContentAgrees) {
    EXPECT_EQ(sorting_of("letter.docx").kind, Kind::document);
    EXPECT_EQ(sorting_of("Letter.DOCX").ext, "docx");
    // A name tells which of several things it is.
    EXPECT_EQ(sorting_of("cue.wma", format_named("asf")).kind, Kind::audio);
    EXPECT_EQ(sorting_of("run.py", format_named("text")).kind, Kind::program);
}

TEST(Sorting, IsByContentWhereTheNameTellsNothingOrSomethingElse) {
    EXPECT_EQ(sorting_of("letter.docx", format_named("jpeg")).kind, Kind::picture);
    EXPECT_EQ(sorting_of("letter", format_named("pdf")).kind, Kind::document);
    EXPECT_EQ(sorting_of("letter.stage", format_named("png")).kind, Kind::picture);
    EXPECT_EQ(sorting_of("letter.stage").kind, Kind::other);
}

TEST(Sorting, OfFoldersAndLinksIsByWhatTheyAre) {
    Entry e;
    e.name = "curtain.jpg";
    e.is_dir = true;
    EXPECT_EQ(sorting_of(e).kind, Kind::other);
    EXPECT_EQ(sorting_of(e).ext, "");
    e.is_dir = false;
    e.link = "stage.jpg";
    EXPECT_EQ(sorting_of(e).kind, Kind::link);
    EXPECT_EQ(sorting_of(e).ext, "");
}

TEST(Sorting, GoesByChecksThatAreAtLeastFair) {
    Check check;
    check.format = "png";
    check.complete = true;
    check.strength = Strength::weak;
    EXPECT_EQ(format_shown_by(check), nullptr);
    check.strength = Strength::strong;
    EXPECT_EQ(format_shown_by(check), format_named("png"));
    check.complete = false;
    EXPECT_EQ(format_shown_by(check), nullptr);
    EXPECT_EQ(format_shown_by(std::nullopt), nullptr);
}

}  // namespace undershelf
