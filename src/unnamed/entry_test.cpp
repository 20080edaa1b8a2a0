#include "unnamed/entry.hpp"

#include <gtest/gtest.h>

namespace undershelf {

namespace {

Measured found(std::string title, Ending ending = Ending::structure) {
    Measured out;
    out.range = {4096, 900};
    out.format = "jpeg";
    out.inside.title = std::move(title);
    out.inside.extension = "jpg";
    out.ending = ending;
    out.cut_by = "another content begins";
    return out;
}

}  // namespace

TEST(UnnamedEntry, HasTheTitleForAName) {
    const auto e = unnamed_entry(found("Poster: spring/summer"), 1'000'000);
    EXPECT_EQ(e.name, "Poster- spring-summer.jpg");
    EXPECT_EQ(e.name_certainty, NameCertainty::made_up);
    EXPECT_EQ(e.origin, Origin::unnamed);
    EXPECT_EQ(e.layout, Layout::assumed);
    ASSERT_EQ(e.pieces.size(), 1u);
    EXPECT_EQ(e.pieces[0].source_range(), (ByteRange{4096, 900}));
    EXPECT_FALSE(e.pieces[0].known);
    EXPECT_TRUE(has_fact(e.evidence, Fact::ends_itself));
    EXPECT_EQ(unnamed_entry(found("..."), 1'000'000).name, "picture-0004096.jpg");
}

TEST(UnnamedEntry, IsNamedByItsPlaceElse) {
    // So many digits as the source's size has, so that names sort by place.
    EXPECT_EQ(unnamed_entry(found(""), 99'999).name, "picture-04096.jpg");
    auto font = found("");
    font.format = "ttf";
    font.inside.extension = "ttf";
    EXPECT_EQ(unnamed_entry(font, 99'999).name, "file-04096.ttf");
}

TEST(UnnamedEntry, SaysHowItEndsAndWhereItsDatesAre) {
    auto cut = found("", Ending::cut);
    cut.inside.dates.created = Timestamp{0, 0};
    cut.inside.dates.where = "in the picture's Exif data";
    const auto e = unnamed_entry(cut, 99'999);
    EXPECT_TRUE(has_fact(e.evidence, Fact::cut_off));
    EXPECT_EQ(e.evidence.front().text, "another content begins");
    EXPECT_TRUE(has_fact(e.evidence, Fact::date_inside));
    EXPECT_TRUE(e.created);
    EXPECT_TRUE(has_fact(unnamed_entry(found("", Ending::zeros), 9).evidence, Fact::ends_in_zeros));
}

}  // namespace undershelf
