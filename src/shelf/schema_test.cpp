#include "shelf/schema.hpp"

#include <gtest/gtest.h>

#include "scan/scan.hpp"
#include "shelf/shelf.hpp"
#include "support/fat_image.hpp"
#include "support/formatted_card.hpp"
#include "support/shelf_rows.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf {

// The view `listing` is in every shelf, with these numbers.
static_assert(static_cast<int>(Origin::live) == 0 && static_cast<int>(Origin::deleted) == 1 &&
              static_cast<int>(Origin::former) == 2 && static_cast<int>(Grade::gone) == 1 &&
              static_cast<int>(Grade::partial) == 2 && static_cast<int>(Grade::doubtful) == 3 &&
              static_cast<int>(Grade::likely) == 4);

namespace {

/// Takes out what version 8 added, so that the shelf is as version 7 left it.
void make_version_7(const std::string& path) {
    SQLite::Database db(path, SQLite::OPEN_READWRITE);
    for (const char* table : {"scans", "jobs"}) {
        for (const char* column : {"version", "options", "exit"})
            db.exec(std::string("ALTER TABLE ") + table + " DROP COLUMN " + column);
    }
    db.exec("DROP TABLE exported");
    db.exec("PRAGMA user_version=7");
}

/// And what version 7 added.
void make_version_6(const std::string& path) {
    make_version_7(path);
    SQLite::Database db(path, SQLite::OPEN_READWRITE);
    db.exec("DROP VIEW listing");
    for (const char* column : {"pixels", "seconds", "pages", "title", "camera"})
        db.exec(std::string("ALTER TABLE entries DROP COLUMN ") + column);
    db.exec("DROP TABLE named_marks");
    db.exec("DROP TABLE shown_folders");
    db.exec("PRAGMA user_version=6");
}

/// And what version 6 added.
void make_version_5(const std::string& path) {
    make_version_6(path);
    SQLite::Database db(path, SQLite::OPEN_READWRITE);
    db.exec("ALTER TABLE entries DROP COLUMN rated");
    db.exec("DROP TABLE jobs");
    db.exec("PRAGMA user_version=5");
}

/// And what version 5 added.
void make_version_4(const std::string& path) {
    make_version_5(path);
    SQLite::Database db(path, SQLite::OPEN_READWRITE);
    db.exec("ALTER TABLE entries DROP COLUMN link");
    db.exec("PRAGMA user_version=4");
}

/// And what version 4 added.
void make_version_3(const std::string& path) {
    make_version_4(path);
    SQLite::Database db(path, SQLite::OPEN_READWRITE);
    for (const char* column : {"helper", "start", "earlier_names"})
        db.exec(std::string("ALTER TABLE entries DROP COLUMN ") + column);
    db.exec("PRAGMA user_version=3");
}

/// And what version 3 added.
void make_version_2(const std::string& path) {
    make_version_3(path);
    SQLite::Database db(path, SQLite::OPEN_READWRITE);
    db.exec("ALTER TABLE unreadable DROP COLUMN not_copied");
    db.exec("PRAGMA user_version=2");
}

/// And what version 2 added.
void make_version_1(const std::string& path) {
    make_version_2(path);
    SQLite::Database db(path, SQLite::OPEN_READWRITE);
    for (const char* column : {"grid_start", "geometry", "votes", "withdrawn"})
        db.exec(std::string("ALTER TABLE volumes DROP COLUMN ") + column);
    for (const char* column : {"dates", "format", "checked", "complete", "holds_to", "proven_to", "revision"})
        db.exec(std::string("ALTER TABLE entries DROP COLUMN ") + column);
    db.exec("ALTER TABLE scans DROP COLUMN sweep_seconds");
    for (const char* table : {"traces", "checkpoint", "traces_left_out", "set_aside"})
        db.exec(std::string("DROP TABLE ") + table);
    db.exec("PRAGMA user_version=1");
}

std::vector<std::string> paths(const std::string& shelf) {
    std::vector<std::string> out;
    Shelf(shelf).for_each({}, {}, [&](const ShelfEntry& e) {
        out.push_back(std::to_string(e.id) + " " + e.path());
        return true;
    });
    return out;
}

ScanOptions options(const std::string& image, const std::string& shelf, Reach reach) {
    ScanOptions out;
    out.source_path = image;
    out.shelf_path = shelf;
    out.reach = reach;
    return out;
}

}  // namespace

class OldShelves : public testing::TestWithParam<void (*)(const std::string&)> {};
INSTANTIATE_TEST_SUITE_P(Versions, OldShelves,
                         testing::Values(make_version_1, make_version_2, make_version_3, make_version_4,
                                         make_version_5, make_version_6, make_version_7));

TEST_P(OldShelves, CanBeRead) {
    const test::TemporaryFolder folder;
    const auto image = folder.write("card.img", test::formatted_card().bytes());
    const auto shelf = folder.at("a.shelf");
    Progress progress;
    scan(options(image, shelf, Reach::volumes), progress);
    const auto expected = paths(shelf);
    GetParam()(shelf);
    EXPECT_EQ(paths(shelf), expected);
    Shelf old(shelf, Shelf::Access::mark);
    EXPECT_EQ(old.volumes().size(), 1u);
    EXPECT_EQ(old.scans().size(), 1u);
    EXPECT_FALSE(old.set_aside(1));
    EXPECT_EQ(old.tally(Shelf::TallyBy::origin).size(), Shelf(shelf).tally(Shelf::TallyBy::origin).size());
    EXPECT_GT(old.mark({}, true), 0u);
    EXPECT_FALSE(old.pieces(1).empty());
}

TEST(Schema, AScanBringsVersionOneUp) {
    const test::TemporaryFolder folder;
    const auto image = folder.write("card.img", test::formatted_card().bytes());
    const auto shelf = folder.at("a.shelf"), fresh = folder.at("fresh.shelf");
    Progress progress;
    scan(options(image, shelf, Reach::volumes), progress);
    make_version_1(shelf);
    EXPECT_FALSE(scan(options(image, shelf, Reach::traces), progress).was_complete);
    scan(options(image, fresh, Reach::volumes), progress);
    scan(options(image, fresh, Reach::traces), progress);
    // Where a volume's clusters begin version 1 did not say, and the scan has seen. What is on a volume is
    // not read again for what only versions from 4 on keep.
    const std::vector<std::string> not_then{"entries.dates", "entries.start", "settings.value"};
    EXPECT_EQ(test::shelf_rows(shelf, not_then), test::shelf_rows(fresh, not_then));
    EXPECT_EQ(SQLite::Database(shelf).execAndGet("PRAGMA user_version").getInt(), schema::version);
}

TEST(Schema, AScanBringsVersionTwoUp) {
    const test::TemporaryFolder folder;
    const auto image = folder.write("card.img", test::formatted_card().bytes());
    const auto list = folder.write("bad.csv", std::string("offset,length\n1024,512\n"));
    const auto shelf = folder.at("a.shelf"), fresh = folder.at("fresh.shelf");
    Progress progress;
    for (const auto& path : {shelf, fresh}) {
        auto o = options(image, path, Reach::volumes);
        o.unreadable_list = list;
        scan(o, progress);
    }
    const auto rows = test::shelf_rows(shelf, {"entries.start"});
    make_version_2(shelf);
    EXPECT_EQ(Shelf(shelf).unreadable().ranges(), Shelf(fresh).unreadable().ranges());
    EXPECT_TRUE(Shelf(shelf).not_copied().empty());
    auto o = options(image, shelf, Reach::volumes);
    o.unreadable_list = list;
    EXPECT_FALSE(scan(o, progress).was_complete);
    EXPECT_TRUE(scan(o, progress).was_complete);
    EXPECT_EQ(test::shelf_rows(shelf, {"entries.start"}), rows);
}

TEST(Schema, LaterVersionsAreRefused) {
    const test::TemporaryFolder folder;
    const auto image = folder.write("card.img", test::formatted_card().bytes());
    const auto shelf = folder.at("a.shelf");
    Progress progress;
    scan(options(image, shelf, Reach::volumes), progress);
    SQLite::Database(shelf, SQLite::OPEN_READWRITE).exec("PRAGMA user_version=99");
    EXPECT_THROW(Shelf{shelf}, Error);
}

}  // namespace undershelf
