#include "shelf/selection.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "base/error.hpp"
#include "shelf/shelf.hpp"
#include "shelf/writer.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf {

namespace {
class Selections : public ::testing::Test {
  protected:
    Selections() {
        ShelfWriter writer(SourceGuard::no_source(), path);
        writer.set_source({"/cards/card.img", 1000, 512}, {});
        for (int i = 1; i <= 50; ++i) {
            Entry e;
            e.name = "cue" + std::to_string(i) + ".csv";
            e.key = {static_cast<std::uint64_t>(i), 0};
            e.size = static_cast<std::uint64_t>(i) << 57;
            writer.add_entry(i, 1, -1, e, sorting_of(e), {});
        }
        writer.add_folder(-1, 1, "");
    }
    std::uint64_t count(const Selection& s) { return Shelf(path).count(s); }

    test::TemporaryFolder folder;
    std::string path = folder.at("a.shelf");
};
}  // namespace

TEST_F(Selections, TakeThousandsOfPatternsAndIds) {
    Selection s;
    for (int i = 0; i < 5000; ++i) s.names.push_back("x" + std::to_string(i));
    s.names.push_back("CUE7.*");
    s.names.push_back("/cue8.csv");
    EXPECT_EQ(count(s), 2u);
    for (int i = 1; i < 5000; ++i) add_id(s.ids, i);
    EXPECT_EQ(count(s), 2u);
    Selection under;
    under.under.assign(2000, "nowhere");
    EXPECT_EQ(count(under), 0u);
}

TEST_F(Selections, LetALostFirstLetterBeAny) {
    {
        ShelfWriter writer(SourceGuard::no_source(), path);
        Entry e;
        e.name = "_ROPS.csv";
        e.origin = Origin::deleted;
        e.name_certainty = NameCertainty::first_letter_unknown;
        e.key = {99, 0};
        writer.add_folder(-2, 1, "Act one");
        writer.add_entry(99, 1, -2, e, sorting_of(e), {});
        // A name that really begins so.
        e.name = "_ROPS.txt";
        e.name_certainty = NameCertainty::full;
        e.key = {100, 0};
        writer.add_entry(100, 1, -2, e, sorting_of(e), {});
    }
    const auto found = [&](const std::string& pattern, bool match_case = false) {
        Selection s;
        s.names = {pattern};
        s.match_case = match_case;
        return count(s);
    };
    EXPECT_EQ(found("props*"), 1u);
    EXPECT_EQ(found("PROPS*", true), 1u);
    EXPECT_EQ(found("props*", true), 0u);
    EXPECT_EQ(found("act one/props.*"), 1u);
    EXPECT_EQ(found("act one/?rops.*"), 2u);
    EXPECT_EQ(found("act one/drapes*"), 0u);
}

TEST_F(Selections, NameTheOptionThatHasTooMany) {
    Selection s;
    s.exts.assign(20'000, "csv");
    try {
        where_clause(s);
        FAIL();
    } catch (const Error& e) {
        EXPECT_EQ(e.trouble(), Trouble::usage);
        EXPECT_THAT(e.what(), ::testing::HasSubstr("--ext"));
    }
}

TEST_F(Selections, SortByAColumnOnce) {
    const std::vector<SortKey> keys(3000, {"size", true});
    std::vector<std::int64_t> ids;
    Shelf(path).for_each({}, keys, [&](const ShelfEntry& e) {
        ids.push_back(e.id);
        return true;
    });
    ASSERT_EQ(ids.size(), 50u);
    EXPECT_EQ(ids.front(), 50);
}

TEST_F(Selections, SumsSizesThatDoNotFit) {
    const auto tally = Shelf(path).tally(Shelf::TallyBy::origin);
    ASSERT_EQ(tally.size(), 1u);
    EXPECT_GT(tally[0].bytes, 1ull << 62);
}

}  // namespace undershelf
