#include "shelf/scan_state.hpp"

#include <gtest/gtest.h>

namespace undershelf {

namespace {

class ScanStateRows : public ::testing::Test {
  protected:
    void SetUp() override { db.exec("CREATE TABLE settings(name TEXT PRIMARY KEY, value TEXT NOT NULL)"); }
    ScanState again(const ScanState& state) {
        write_scan_state(db, state);
        return read_scan_state(db);
    }
    SQLite::Database db{":memory:", SQLite::OPEN_READWRITE | SQLite::OPEN_CREATE};
};

}  // namespace

TEST_F(ScanStateRows, ComeBack) {
    ScanState s;
    s.settings = "code page 437; zone unknown";
    s.brought_up_from = 3;
    s.told = {{4096, "FAT32", 512u, std::nullopt}, {0, "NTFS", std::nullopt, 9u}};
    s.left_out = {{"exFAT", 1 << 20, 32768}};
    s.gained = RangeSet({{0, 512}, {4096, 8192}});
    s.lost_folders[2] = "7 00ff";
    s.discards[12] = {30, 31};
    s.starts_to = 77;
    s.contents = " jpeg png ";
    s.unnamed_basis = "abcd";
    s.unnamed_reached = 99;
    s.bare_partitions = {{{512, 4096}, "Linux, 0x83"}, {{8192, 512}, "0x07"}};
    s.unread_systems = {{{0, 512}, "encrypted volume (LUKS)"}};
    s.takes_discards = true;
    s.space = SpaceLook{100, 90, 80, 7, 6, 5, 4};
    s.content_seconds = 12.5;
    const auto out = again(s);
    EXPECT_EQ(out.bare_partitions, s.bare_partitions);
    EXPECT_EQ(out.unread_systems, s.unread_systems);
    EXPECT_TRUE(out.takes_discards);
    EXPECT_EQ(out.space, s.space);
    EXPECT_EQ(out.content_seconds, 12.5);
    EXPECT_EQ(out.settings, s.settings);
    EXPECT_EQ(out.brought_up_from, 3);
    ASSERT_EQ(out.told.size(), 2u);
    EXPECT_EQ(out.told[0].system, "FAT32");
    EXPECT_EQ(out.told[0].cluster_size, 512u);
    EXPECT_EQ(out.told[0].data_offset, std::nullopt);
    EXPECT_EQ(out.told[1].data_offset, 9u);
    EXPECT_EQ(out.left_out, s.left_out);
    EXPECT_EQ(out.gained.bytes(), 8704u);
    EXPECT_EQ(out.lost_folders.at(2), "7 00ff");
    EXPECT_EQ(out.discards.at(12).zeros, 30u);
    EXPECT_EQ(out.discards.at(12).files, 31u);
    EXPECT_EQ(out.starts_to, 77u);
    EXPECT_EQ(out.contents, s.contents);
    EXPECT_EQ(out.unnamed_basis, "abcd");
    EXPECT_EQ(out.unnamed_reached, 99u);
}

TEST_F(ScanStateRows, OfNothingAreNone) {
    ScanState s;
    s.gained = RangeSet({{0, 512}});
    s.brought_up_from = 2;
    again(s);
    EXPECT_TRUE(again({}).gained.empty());
    EXPECT_EQ(db.execAndGet("SELECT count(*) FROM settings").getInt(), 0);
}

TEST_F(ScanStateRows, FromElsewhereMaySayAnything) {
    for (const char* value : {"", "many", "99999999999999999999999", " of ", "range range", "1 FAT32"}) {
        for (const char* name : {"space", "content seconds", "partitions without a volume", "discards ",
                                 "discards x", "volumes told", "volumes left out", "gained", "brought up",
                                 "lost folders of volume 999999999999", "unnamed reached", "another"}) {
            SQLite::Statement put(db, "INSERT OR REPLACE INTO settings VALUES(?,?)");
            put.bind(1, name);
            put.bind(2, value);
            put.exec();
        }
        read_scan_state(db);
    }
    EXPECT_TRUE(read_scan_state(db).told.empty());
}

}  // namespace undershelf
