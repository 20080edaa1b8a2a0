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

TEST_F(Selections, LeaveOutCopiesOfALiveOrABetterLostOne) {
    {
        ShelfWriter writer(SourceGuard::no_source(), path);
        // 1 to 3 have one content, of which 2 is live; 4 to 6 another one, all lost.
        writer.add_same_content({{1, false}, {2, true}, {3, false}});
        writer.add_same_content({{4, false}, {5, false}, {6, false}});
    }
    {
        SQLite::Database db(path, SQLite::OPEN_READWRITE);
        db.exec("UPDATE entries SET rated = 1, grade = 4, chance = 0.9 WHERE id IN (4, 5, 6)");
        db.exec("UPDATE entries SET grade = 5 WHERE id = 5");
    }
    Selection some;
    some.ids = IdSet({{1, 7}});
    some.hide_copies = true;
    std::vector<std::int64_t> left;
    const Shelf shelf(path);
    shelf.for_each(some, {}, [&](const ShelfEntry& e) {
        left.push_back(e.id);
        return true;
    });
    EXPECT_THAT(left, testing::ElementsAre(2, 5, 7));
    EXPECT_EQ(shelf.left_out(some).copies, 4u);
}

TEST_F(Selections, SayWhatIsNotWanted) {
    Selection s;
    s.not_names = {"cue1", "=cue22.csv"};
    EXPECT_EQ(count(s), 50u - 11 - 1);  // cue1, cue10 to cue19, cue22
    s.not_exts = {"csv"};
    EXPECT_EQ(count(s), 0u);
    Selection root;
    root.not_under = {"/"};
    EXPECT_EQ(count(root), 0u);
    root.not_under = {"nowhere"};
    EXPECT_EQ(count(root), 50u);
    root.in = {"/"};
    EXPECT_EQ(count(root), 50u);
}

TEST_F(Selections, FindWhatIsHidden) {
    {
        SQLite::Database db(path, SQLite::OPEN_READWRITE);
        db.exec("UPDATE entries SET attributes = 34 WHERE id = 3");
        db.exec("UPDATE entries SET name = '.cue' WHERE id = 4");
        db.exec("UPDATE entries SET first_path = 'Scripts/.season' WHERE id = 5");
    }
    Selection hidden;
    hidden.hidden = true;
    EXPECT_EQ(count(hidden), 3u);
    Selection undated;
    undated.accessed = Between<std::int64_t>{{}, {}, true};
    EXPECT_EQ(count(undated), 50u);
    undated.accessed = Between<std::int64_t>{0, {}, false};
    EXPECT_EQ(count(undated), 0u);
}

TEST_F(Selections, TakeManyNumbersAtOnce) {
    Selection s;
    std::vector<ByteRange> odd;
    for (std::uint64_t i = 1; i < 200'000; i += 2) odd.push_back({i, 1});
    s.ids = IdSet(odd);
    EXPECT_EQ(count(s), 25u);
    s.among = std::make_shared<const IdSet>(IdSet({{1, 10}}));
    EXPECT_EQ(count(s), 5u);
    EXPECT_EQ(Shelf(path).not_entries(IdSet({{49, 4}, {90, 1}}), 2).numbers, 3u);
    EXPECT_THAT(Shelf(path).not_entries(IdSet({{49, 4}, {90, 1}}), 2).first, testing::ElementsAre(51u, 52u));
}

TEST_F(Selections, KeepMarksUnderNames) {
    Shelf shelf(path, Shelf::Access::mark);
    Selection some;
    some.ids = IdSet({{1, 3}});
    EXPECT_EQ(shelf.mark(some, true, "posters"), 3u);
    EXPECT_EQ(shelf.mark(some, true, "posters"), 0u);
    some.ids = IdSet({{3, 2}});
    EXPECT_EQ(shelf.mark(some, true), 2u);
    Selection marked;
    marked.marked = true;
    EXPECT_EQ(shelf.count(marked), 4u);
    marked.marks = {"posters", "nobody"};
    EXPECT_EQ(shelf.count(marked), 3u);
    EXPECT_EQ(shelf.mark_names(), (std::vector<std::pair<std::string, std::uint64_t>>{{"posters", 3}}));
    EXPECT_EQ(shelf.entry(3)->marks, std::vector<std::string>{"posters"});
    // Without a name all marks of an entry go, and it counts once.
    EXPECT_EQ(shelf.mark(some, false), 2u);
    marked.marks.clear();
    EXPECT_EQ(shelf.count(marked), 2u);
}

}  // namespace undershelf
