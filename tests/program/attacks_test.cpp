// What somebody may have prepared: nothing outside what was asked for is written, read as one's own, or
// waited for.

#include <SQLiteCpp/SQLiteCpp.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <sqlite3.h>
#include <sys/stat.h>
#include <unistd.h>

#include <filesystem>
#include <fstream>
#include <set>
#include <sstream>

#include "support/asked_device.hpp"
#include "support/attacked_card.hpp"
#include "support/needs.hpp"

namespace undershelf::test {

namespace {

namespace fs = std::filesystem;
using ::testing::AllOf;
using ::testing::HasSubstr;
using ::testing::Not;

class Attacks : public AttackedCard {};

}  // namespace

TEST_F(Attacks, ARefusedCaptureLeavesNothingAndNeverTakesWhatIsThere) {
    folder.write("novel.txt", std::string("my only copy\n"));
    fs::create_symlink("novel.txt", at("link.img"));
    fs::create_symlink("nowhere yet", at("dangling.img"));
    for (const auto* image : {"novel.txt", "link.img", "/dev/null"}) {
        for (int i = 0; i < 2; ++i) {
            const auto ran = run({"capture", "card.img", image});
            EXPECT_EQ(ran.status, 4) << image << ran.err;
            EXPECT_FALSE(fs::exists(at(std::string(image) + ".coverage.csv"))) << image;
        }
    }
    EXPECT_EQ(file("novel.txt"), "my only copy\n");
    // Nor with a coverage that speaks of nothing, as an older version left one.
    run({"capture", "card.img", "copy.img"});
    std::string waiting;
    std::istringstream in(file("copy.img.coverage.csv"));
    for (std::string line; std::getline(in, line);) {
        if (line.starts_with("# size") || line.starts_with("# sector")) waiting += line + "\n";
    }
    folder.write("novel.txt.coverage.csv", waiting + "offset,length,state\n");
    const auto again = run({"capture", "card.img", "novel.txt"});
    EXPECT_EQ(again.status, 4);
    EXPECT_THAT(again.err, HasSubstr("nothing says that it is a copy"));
    EXPECT_EQ(file("novel.txt"), "my only copy\n");
    // A finished image beside such a coverage is not read as one of which nothing was copied.
    folder.write("copy.img.coverage.csv", waiting + "offset,length,state\n");
    const auto scanned = run({"scan", "copy.img"});
    EXPECT_EQ(scanned.status, 3);
    EXPECT_THAT(scanned.err, HasSubstr("it says that nothing is copied yet, and the image has data"));
}

TEST_F(Attacks, WhatIsAskedOfACaptureWronglyLeavesNothing) {
    const auto names = [&] {
        std::set<std::string> out;
        for (const auto& f : fs::directory_iterator(folder.path())) out.insert(f.path().filename().string());
        return out;
    };
    folder.write("other.img", random_bytes(fs::file_size(at("card.img"))));
    ASSERT_LE(run({"scan", "other.img", "--reach", "traces"}).status, 1);
    const auto before = names();
    EXPECT_EQ(run({"capture", "card.img", "copy.img", "--coverage", "copy.img"}).status, 2);
    EXPECT_EQ(run({"capture", "card.img", "copy.img", "--coverage", "card.img"}).status, 4);
    EXPECT_EQ(run({"capture", "card.img", "copy.img", "--reads", "copy.img"}).status, 2);
    EXPECT_EQ(run({"capture", "card.img", "copy.img", "--shelf", "other.shelf"}).status, 3);
    EXPECT_EQ(
        run({"capture", "card.img", "copy.img", "--from", "other.shelf", "--reads", "reads.csv"}).status, 3);
    EXPECT_EQ(run({"capture", "card.img", "card.shelf"}).status, 4);
    EXPECT_EQ(names(), before);
    // What of an image is left when it is gone is not written over.
    folder.write("copy.img.blocks.csv", std::string("mine\n"));
    EXPECT_EQ(run({"capture", "card.img", "copy.img"}).status, 4);
    EXPECT_EQ(file("copy.img.blocks.csv"), "mine\n");
}

TEST_F(Attacks, AnImageThatWasReplacedIsNotCertified) {
    folder.write("drive.img", random_bytes(4 << 20));
    folder.write("drive.csv", std::string("offset,length,behaviour\n0,0,die after 2 reads\n"));
    ASSERT_EQ(run({"capture", "drive.img", "copy.img", "--simulate", "drive.csv"}).status, 1);
    fs::resize_file(at("copy.img"), 0);
    fs::resize_file(at("copy.img"), 4 << 20);
    const auto replaced = run({"capture", "drive.img", "copy.img", "--hash"});
    EXPECT_EQ(replaced.status, 4);
    EXPECT_THAT(replaced.err, HasSubstr("was replaced or changed since it was copied"));
    EXPECT_EQ(run({"scan", "copy.img"}).status, 3);
    // A byte that no sample looks at shows when all of it is hashed, and is copied again.
    fs::remove(at("copy.img"));
    fs::remove(at("copy.img.coverage.csv"));
    fs::remove(at("copy.img.blocks.csv"));
    ASSERT_EQ(run({"capture", "drive.img", "copy.img"}).status, 0);
    auto bytes = file("copy.img");
    bytes[1'300'001] = static_cast<char>(bytes[1'300'001] + 1);
    folder.write("copy.img", bytes);
    const auto hashed = run({"capture", "drive.img", "copy.img", "--hash"});
    EXPECT_EQ(hashed.status, 1);
    EXPECT_THAT(hashed.err, HasSubstr("They count as not copied"));
    EXPECT_FALSE(fs::exists(at("copy.img.sha256")));
    EXPECT_EQ(run({"capture", "drive.img", "copy.img", "--hash"}).status, 0);
    EXPECT_EQ(shell("sha256sum -c copy.img.sha256 && cmp copy.img drive.img").status, 0);
    // Somebody's own checksum stays.
    folder.write("copy.img.sha256", std::string("mine\n"));
    EXPECT_EQ(run({"capture", "drive.img", "copy.img", "--hash"}).status, 1);
    EXPECT_EQ(file("copy.img.sha256"), "mine\n");
}

TEST_F(Attacks, APartThatWasCutShortShiftsNothing) {
    const auto bytes = file("card.img");
    const std::size_t part = 512 << 10;
    for (std::size_t i = 0; i * part < bytes.size(); ++i)
        folder.write("split.img.00" + std::to_string(i + 1), bytes.substr(i * part, part));
    fs::resize_file(at("split.img.002"), 1000);
    const auto cut = run({"scan", "split.img.001"});
    EXPECT_EQ(cut.status, 1);
    EXPECT_THAT(run({"inspect", "split.img.001"}).out, HasSubstr("split.img.002 was cut short"));
    folder.write("split.img.002", std::string(part + 512, 'x'));
    const auto longer = run({"scan", "split.img.001", "--shelf", "longer.shelf"});
    EXPECT_EQ(longer.status, 3);
    EXPECT_THAT(longer.err, HasSubstr("it is not known where its bytes belong"));
    EXPECT_FALSE(fs::exists(at("longer.shelf")));
    // Beside a coverage a missing part is missing as well, the last one too.
    ASSERT_EQ(run({"capture", "card.img", "copy.img", "--split", "1M"}).status, 0);
    const auto last = bytes.size() > 2u << 20 ? "copy.img.003" : "copy.img.002";
    fs::remove(at(last));
    EXPECT_EQ(run({"scan", "copy.img.001"}).status, 1);
    EXPECT_THAT(run({"inspect", "copy.img.001"}).out, HasSubstr(std::string(last) + " is missing"));
}

TEST_F(Attacks, AnExportIntoAPreparedFolderStaysInIt) {
    fs::create_directories(at("victim"));
    make_cut_off_bag("a");
    fs::remove_all(at("a/data/live"));
    fs::create_directory_symlink(at("victim"), at("a/data/live"));
    // What is somebody else's is not followed, and not overwritten.
    const auto beside = export_to("a");
    EXPECT_EQ(beside.status, 0) << beside.err;
    EXPECT_THAT(beside.err, HasSubstr("1 file in a is not from an export: data/live"));
    EXPECT_THAT(file("a/exported.jsonl"), HasSubstr("data/live~2/CUES.TXT"));
    EXPECT_TRUE(fs::is_symlink(at("a/data/live")));
    EXPECT_TRUE(fs::is_empty(at("victim")));
    // The folder of unfinished work as a link.
    make_cut_off_bag("prepared");
    folder.write("prepared/.unfinished/1/mine.part", std::string("keep"));
    fs::create_directories(at("b"));
    fs::create_directory_symlink("../prepared/.unfinished", at("b/.unfinished"));
    const auto linked = export_to("b");
    EXPECT_EQ(linked.status, 4);
    EXPECT_THAT(linked.err, HasSubstr("is not a folder of an export"));
    EXPECT_EQ(file("prepared/.unfinished/1/mine.part"), "keep");
    // A journal that leads outside, or that breaks the manifest.
    for (const std::string path :
         {"../escaped.txt", "data/../../escaped.txt", "/tmp/escaped.txt", "data/a\\nb"}) {
        fs::remove_all(at("c"));
        make_cut_off_bag("c");
        folder.write("c/.unfinished/1/1.part", std::string("hello-world\n"));
        append("c/.unfinished/journal.jsonl",
               replaced(first_line_of_export(), "data/live/CUES.TXT", path) + "\n");
        EXPECT_LE(export_to("c").status, 1);
        EXPECT_FALSE(fs::exists(at("escaped.txt")));
        EXPECT_THAT(file("c/manifest-sha256.txt"), Not(HasSubstr("escaped")));
        EXPECT_EQ(run({"verify", "c"}).status, 0);
    }
}

TEST_F(Attacks, AnExportThatWasCutOffAtItsStartGoesOn) {
    fs::create_directories(at("out/.unfinished/3"));
    fs::create_directories(at("out/data"));
    folder.write("out/.unfinished/journal.jsonl.new", std::string("{\"jo"));
    EXPECT_EQ(export_to("out").status, 0);
    // As a file system leaves it that keeps what is open.
    fs::create_directories(at("out/.unfinished/3"));
    folder.write("out/.unfinished/.fuse_hidden0001", std::string("left"));
    EXPECT_EQ(run({"verify", "out"}).status, 0);
    EXPECT_THAT(export_to("out").out, HasSubstr("nothing to add"));
    fs::create_directories(at("mine/.unfinished/3"));
    folder.write("mine/.unfinished/3/letter.txt", std::string("mine"));
    EXPECT_THAT(export_to("mine").err, HasSubstr("is not empty"));
}

TEST_F(Attacks, AShelfIsInput) {
    const auto said = [&](const std::string& sql, const char* command = "list") {
        fs::copy_file(at("card.shelf"), at("bad.shelf"), fs::copy_options::overwrite_existing);
        {
            SQLite::Database db(at("bad.shelf"), SQLite::OPEN_READWRITE);
            db.exec(sql);
        }
        const auto ran =
            run_in(folder.path().string(), {"timeout", "20", UNDERSHELF_PROGRAM, command, "bad.shelf"});
        EXPECT_EQ(ran.status, 3) << sql << ran.out;
        return ran.err;
    };
    EXPECT_THAT(said("UPDATE entries SET kind = 99"), HasSubstr("entry 1 has the kind 99"));
    EXPECT_THAT(said("UPDATE entries SET grade = 99", "summary"), HasSubstr("the grade 99"));
    EXPECT_THAT(said("UPDATE entries SET modified = 9223372036854775807"), HasSubstr("has the date"));
    EXPECT_THAT(said("UPDATE entries SET size = -1"), HasSubstr("has the size -1"));
    EXPECT_THAT(said("UPDATE volumes SET size = -1", "summary"), HasSubstr("volume 1 has -1 bytes"));
    EXPECT_THAT(said("UPDATE source SET sector_size = 0", "summary"), HasSubstr("sectors of 0"));
    EXPECT_THAT(said("CREATE TRIGGER t AFTER INSERT ON marks BEGIN DELETE FROM entries; END"),
                HasSubstr("the trigger `t`"));
    EXPECT_THAT(
        said("ALTER TABLE entries RENAME TO e2; CREATE VIEW entries AS WITH RECURSIVE n(i) AS (SELECT 1 "
             "UNION ALL SELECT i + 1 FROM n) SELECT * FROM n, e2"),
        HasSubstr("which no shelf has"));
    EXPECT_THAT(said("ALTER TABLE marks ADD COLUMN more INTEGER"), HasSubstr("the column `more`"));
    EXPECT_THAT(said("DROP TABLE marks"), HasSubstr("no table `marks`"));
    EXPECT_THAT(said("UPDATE entries SET name = zeroblob(100000000)"), HasSubstr("is damaged"));
}

TEST_F(Attacks, AShelfThatWasCutOffIsPutRight) {
    // Before anything was in it.
    folder.write("begun.shelf", std::string());
    EXPECT_THAT(run({"list", "begun.shelf"}).err, HasSubstr("holds no scan yet"));
    EXPECT_EQ(run({"scan", "card.img", "--shelf", "begun.shelf"}).status, 0);
    {
        SQLite::Database db(at("half.shelf"), SQLite::OPEN_READWRITE | SQLite::OPEN_CREATE);
        db.exec("PRAGMA journal_mode=WAL; CREATE TABLE t(x); DROP TABLE t");
    }
    EXPECT_THAT(run({"list", "half.shelf"}).err, HasSubstr("holds no scan yet"));
    EXPECT_EQ(run({"scan", "card.img", "--shelf", "half.shelf"}).status, 0);
    folder.write("other.shelf",
                 std::string("not a database, but longer than its head would be: " + std::string(99, 'x')));
    EXPECT_THAT(run({"list", "other.shelf"}).err, HasSubstr("is not a shelf"));
    EXPECT_EQ(run({"scan", "card.img", "--shelf", "other.shelf"}).status, 3);
    // In the middle of a step: its journal is beside it.
    {
        SQLite::Database db(at("card.shelf"), SQLite::OPEN_READWRITE);
        db.exec(
            "PRAGMA cache_spill = 1; PRAGMA cache_size = 1; BEGIN; UPDATE entries SET name = name || 'x'");
        db.exec(
            "CREATE TABLE filler AS WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < "
            "9999) "
            "SELECT i, randomblob(99) AS b FROM n");
        fs::copy_file(at("card.shelf"), at("hot.shelf"));
        fs::copy_file(at("card.shelf-journal"), at("hot.shelf-journal"));
        db.exec("ROLLBACK");
    }
    const auto listed = run({"list", "hot.shelf", "--columns", "name"});
    EXPECT_EQ(listed.status, 0) << listed.err;
    EXPECT_EQ(listed.out, run({"list", "card.shelf", "--columns", "name"}).out);
}

TEST_F(Attacks, NothingIsWrittenToAFileSystemThatIsOnTheSource) {
    const auto made =
        shell("truncate -s 8M disk.img && mkfs.ext4 -q disk.img && mkdir m && mount -o loop disk.img m");
    UNDERSHELF_NEEDS(made.status == 0, "mounting a loop device", made.err);
    // A shelf, an image and a bag that are there already, on a file system that is mounted from their source.
    const auto done = shell("cp card.img m/; cp card.shelf m/; mkdir m/sub; true");
    ASSERT_EQ(done.status, 0);
    {
        SQLite::Database db(at("m/card.shelf"), SQLite::OPEN_READWRITE);
        db.exec("UPDATE source SET path = '" + at("disk.img") + "'");
    }
    const std::vector<std::vector<std::string>> commands{
        {"scan", "disk.img", "--shelf", "m/new.shelf"},
        {"scan", "disk.img", "--shelf", "m/card.shelf"},
        {"mark", "m/card.shelf", "--all"},
        {"unmark", "m/card.shelf", "--all"},
        {"capture", "disk.img", "m/copy.img"},
        {"capture", "disk.img", "copy.img", "--coverage", "m/coverage.csv"},
        {"capture", "disk.img", "copy.img", "--reads", "m/reads.csv"},
    };
    const auto loop = shell("losetup -nO NAME -j disk.img");
    const auto before = shell("cd m && find . | sort && sha256sum card.shelf").out;
    for (auto command : commands) {
        EXPECT_EQ(run(command).status, 4) << command[0] << " " << command.back();
        // The same by the loop device over it.
        for (auto& word : command) {
            if (word == "disk.img") word = loop.out.substr(0, loop.out.find_first_of(" \n"));
        }
        EXPECT_EQ(run(command).status, 4) << command[0] << " " << command.back();
    }
    EXPECT_EQ(shell("cd m && find . | sort && sha256sum card.shelf").out, before);
    EXPECT_FALSE(fs::exists(at("copy.img")));
    EXPECT_FALSE(fs::exists(at("copy.img.coverage.csv")));
    // An export and a copy of one file, from a source whose shelf is elsewhere.
    ASSERT_LE(shell("umount m && " UNDERSHELF_PROGRAM " scan disk.img; mount -o loop disk.img m").status, 1);
    shell("mkdir -p inner && mkfs.ext4 -q -F m/card.img");
    EXPECT_EQ(shell("mount -o loop m/card.img inner").status, 0);
    EXPECT_EQ(run({"scan", "disk.img", "--shelf", "inner/new.shelf"}).status, 4) << "on a loop device on it";
    shell("umount inner; umount m");
}

TEST_F(Attacks, CsvFilesOfSpreadsheetsAreRead) {
    folder.write("bad.csv", std::string("\xEF\xBB\xBFoffset,length\r\n0,512\r\n"));
    EXPECT_EQ(run({"scan", "card.img", "--shelf", "u.shelf", "--unreadable", "bad.csv"}).status, 1);
    folder.write("lies.img", std::string(4096, 'x'));
    folder.write("lies.img.coverage.csv",
                 std::string("# size: 1000000000000\n# sector: 512\n# parts of: 1\noffset,length,state\n"));
    const auto lies = run({"scan", "lies.img"});
    EXPECT_EQ(lies.status, 3);
    EXPECT_THAT(lies.err, HasSubstr("Parts have 1048576 bytes at least"));
}

}  // namespace undershelf::test
