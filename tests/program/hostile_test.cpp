// Volumes made to hurt: whatever their fields claim, time and memory are bounded by what is there, and all
// that can be known of them is listed.

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>
#include <sstream>

#include "ntfs/structures.hpp"
#include "support/disk_image.hpp"
#include "support/exfat_image.hpp"
#include "support/fat_image.hpp"
#include "support/heads.hpp"
#include "support/json.hpp"
#include "support/ntfs_image.hpp"
#include "support/program.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf::test {

namespace {

using nlohmann::json;
using ::testing::HasSubstr;
using undershelf::ntfs::ATTR_DATA;
using undershelf::ntfs::ATTR_FLAG_COMPRESSED;

class Hostile : public ::testing::Test {
  protected:
    /// Runs the program with half a gigabyte of memory and twenty seconds of processor time.
    Ran run(const std::string& arguments) {
#ifdef UNDERSHELF_SANITIZED
        const std::string limits;  // it maps far more than it uses
#else
        const std::string limits = "ulimit -v 1500000; ulimit -t 20; ";
#endif
        return run_in(folder.path().string(),
                      {"sh", "-c", limits + "exec " UNDERSHELF_PROGRAM " " + arguments});
    }
    std::vector<json> rows(const std::string& more = "") {
        std::vector<json> out;
        std::istringstream lines(run("list a.shelf --format jsonl " + more).out);
        for (std::string line; std::getline(lines, line);) out.push_back(parsed(line));
        return out;
    }
    Ran scan(const ByteVector& bytes) {
        folder.write("a.img", bytes);
        return run("scan a.img --shelf a.shelf");
    }
    /// Sweeps a source made of copies of one sector, each changed by `vary` by its number.
    template <class Vary>
    Ran sweep(ByteVector sector, std::size_t copies, const Vary& vary) {
        ByteVector bytes;
        for (std::size_t i = 0; i < copies; ++i) {
            vary(sector, i);
            bytes.insert(bytes.end(), sector.begin(), sector.end());
        }
        folder.write("a.img", bytes);
        return run("scan a.img --shelf a.shelf --reach traces");
    }
    static std::size_t lines_of(const std::string& text) {
        return static_cast<std::size_t>(std::count(text.begin(), text.end(), '\n'));
    }

    TemporaryFolder folder;
};

}  // namespace

TEST_F(Hostile, LabelsThatTurnTheWritingDirection) {
    ntfs::Image image;
    image.record(
        3, 3, 1,
        {ntfs::resident(undershelf::ntfs::ATTR_LABEL, ntfs::as_bytes(std::string("A\0\x2e\x20", 4)))});
    scan(image.bytes);
    for (const char* command : {"inspect a.img --format json", "summary a.shelf --format json"}) {
        const auto out = run(command).out;
        EXPECT_THAT(out, HasSubstr("A\\u202e")) << command;
        EXPECT_EQ(out.find("\u202e"), out.npos) << command;
        EXPECT_EQ(parsed(out)["volumes"][0]["label"], "A\u202e");
    }
}

TEST_F(Hostile, FatThatClaimsTerabytes) {
    FatImage card;
    card.put(0, "CUES    CSV", u"", {10}, "a,b\n");
    auto& b = card.bytes();
    put_number(b, 32, 0xFFFFFFFF, 4);  // BPB_TotSec32
    put_number(b, 36, 0x00200000, 4);  // BPB_FATSz32
    EXPECT_NE(scan(b).status, 3);
    EXPECT_EQ(run("inspect a.img").status, 0);
}

TEST_F(Hostile, ExfatThatClaimsBillionsOfClusters) {
    auto b = exfat_head();
    b.resize(40'000);
    put_number(b, 72, 1ull << 40, 8);  // VolumeLength
    put_number(b, 92, 0xFFFFFFF0, 4);  // ClusterCount
    EXPECT_NE(scan(b).status, 3);
    put_number(b, 92, 0xFFFFFFFF, 4);  // more than there may be
    folder.write("b.img", b);
    EXPECT_EQ(run("inspect b.img").status, 0);
}

TEST_F(Hostile, NtfsRunOfManyClusters) {
    ntfs::Image image;
    image.record(
        30, 1, 1,
        {ntfs::Image::name(5, 5, u"hole.bin"),
         ntfs::non_resident(ATTR_DATA, {{0, 1ull << 46}}, 1ull << 58, 1ull << 58, ATTR_FLAG_COMPRESSED)});
    image.record(31, 1, 1,
                 {ntfs::Image::name(5, 5, u"wrapped.bin"),
                  ntfs::non_resident(ATTR_DATA, {{0, 1ull << 54}}, 1ull << 62, 1ull << 62)});
    image.record(32, 1, 1,
                 {ntfs::Image::name(5, 5, u"endless.bin"),
                  ntfs::non_resident(ATTR_DATA, {{0, 1ull << 20}}, ~0ull, ~0ull)});
    image.record(33, 1, 1,
                 {ntfs::Image::name(5, 5, u"kept.txt"), ntfs::resident(ATTR_DATA, ntfs::as_bytes("kept"))});
    EXPECT_EQ(scan(image.bytes).status, 0);
    EXPECT_EQ(rows("--name kept.txt").size(), 1u);
    const auto hole = rows("--name hole.bin").at(0);
    EXPECT_EQ(hole["size"], 1ull << 58);
    const auto endless = rows("--size 1e.. --sort -size");
    ASSERT_EQ(endless.size(), 2u);
    EXPECT_EQ(endless[0]["name"], "endless.bin");
    EXPECT_GT(endless[0]["size"].get<double>(), 9e18);
    // Files that are nothing but holes are not in the way of the others, and say how they are to be had.
    const auto result = run("export a.shelf --to out --all");
    EXPECT_EQ(result.status, 1) << result.err;
    EXPECT_EQ(read_file(folder.at("out/data/live/kept.txt")), "kept");
    EXPECT_THAT(read_file(folder.at("out/exported.jsonl")),
                HasSubstr("--id " + std::to_string(hole["id"].get<int>())));
    EXPECT_EQ(run("export a.shelf --to big --id " + std::to_string(endless[0]["id"].get<int>())).status, 1);
    EXPECT_THAT(read_file(folder.at("big/exported.jsonl")), HasSubstr("takes no files of its size"));
    EXPECT_EQ(run("summary a.shelf").status, 0);
}

TEST_F(Hostile, FoldersNestedWithoutEnd) {
    FatImage card({.width = fat::Width::fat16, .clusters = 5000});
    constexpr fat::Cluster depth = 3000;
    for (fat::Cluster c = 10; c < 10 + depth; ++c) {
        card.chain({c});
        card.make_folder(c, c == 10 ? 0 : c - 1);
        card.add(c == 10 ? 0 : c - 1, {"DEEPER     ", u"", c, 0, 0x10});
    }
    card.put(10 + depth - 1, "LAST    TXT", u"", {4000}, "the end");
    EXPECT_NE(scan(card.bytes()).status, 3);
    const auto all = rows();
    EXPECT_EQ(all.size(), depth + 1);
    for (const auto& row : all) ASSERT_LT(row["path"].get<std::string>().size(), 32'768u);
    const auto tree = run("tree a.shelf");
    EXPECT_EQ(tree.status, 0);
    EXPECT_EQ(lines_of(tree.out), depth + 1 + 2);  // heading and volume
    EXPECT_EQ(run("export a.shelf --to out --name last.txt").status, 0);
    EXPECT_THAT(run("scan a.img --shelf a.shelf").err, HasSubstr("shown at the volume's root"));
}

TEST_F(Hostile, FoldersThatAreEachOthersParent) {
    ntfs::Image image;
    image.record(30, 1, 3, {ntfs::Image::name(31, 1, u"hen")});
    image.record(31, 1, 3, {ntfs::Image::name(30, 1, u"egg")});
    image.record(
        32, 1, 1,
        {ntfs::Image::name(31, 1, u"inside.txt"), ntfs::resident(ATTR_DATA, ntfs::as_bytes("inside"))});
    scan(image.bytes);
    const auto path = rows("--name inside.txt").at(0)["path"].get<std::string>();
    EXPECT_THAT(path, ::testing::AnyOf("hen/egg/inside.txt", "egg/inside.txt"));
    const auto tree = run("tree a.shelf --name inside.txt").out;
    for (const char* name : {"hen/", "egg/", "inside.txt"}) {
        if (path.find(name) != std::string::npos) {
            EXPECT_THAT(tree, HasSubstr(name));
        }
    }
    EXPECT_EQ(lines_of(run("tree a.shelf").out), rows().size() + 2);
    EXPECT_EQ(run("export a.shelf --to out --name inside.txt").status, 0);
    EXPECT_EQ(read_file(folder.at("out/data/live/" + path)), "inside");
}

TEST_F(Hostile, DeletedFilesThatClaimEverything) {
    FatImage card({.width = fat::Width::fat16, .clusters = 20'000});
    // Every other cluster is in use, and 400 erased files of 4 GiB begin in the first ones.
    for (fat::Cluster c = 1001; c < 20'000; c += 2) card.set_fat(c, 0xFFFF);
    for (fat::Cluster c = 10; c < 10 + 30; ++c) card.set_fat(c, c + 1 < 40 ? c + 1 : 0xFFFF);
    card.make_folder(10, 0);
    card.add(0, {"CUES       ", u"", 10, 0, 0x10});
    for (int i = 0; i < 400; ++i) {
        char name[16];
        std::snprintf(name, sizeof name, "CUE%05dBIN", i);
        card.add(10, {name, u"", static_cast<fat::Cluster>(100 + i), 0xFFFFFFFF, 0x20, 0x5A64, 0x5000, true});
    }
    EXPECT_NE(scan(card.bytes()).status, 3);
    EXPECT_EQ(rows("--lost").size(), 400u);
    EXPECT_THAT(run("scan a.img --shelf a.shelf").err, HasSubstr("many times more than the volume holds"));
}

// Sources that are nothing but what a sweep looks for: it ends, and what it leaves out it says.

namespace {
constexpr std::size_t many = 60'000;

ByteVector folder_sector() {
    FatImage card;
    card.make_folder(10, 0);
    card.add(10, {"CUES    CSV", {}, 11, 900});
    const auto at = static_cast<std::ptrdiff_t>(card.cluster_offset(10));
    return {card.bytes().begin() + at, card.bytes().begin() + at + 512};
}
}  // namespace

TEST_F(Hostile, NothingButFoldersOfOneNumber) {
    const auto ran = sweep(folder_sector(), many, [](ByteVector&, std::size_t) {});
    EXPECT_THAT(ran.err, HasSubstr("pieces of what may be FAT"));
    EXPECT_EQ(ran.status, 1);
}

TEST_F(Hostile, NothingButFoldersThatAgree) {
    const auto ran = sweep(folder_sector(), many, [](ByteVector& s, std::size_t i) {
        put_number(s, 26, (i + 2) & 0xFFFF, 2);
        put_number(s, 20, (i + 2) >> 16, 2);
    });
    EXPECT_EQ(ran.status, 0) << ran.err;
    EXPECT_GE(lines_of(run("list a.shelf --format jsonl").out), many);
}

TEST_F(Hostile, NothingButFoldersThatDisagree) {
    const auto ran = sweep(folder_sector(), many, [](ByteVector& s, std::size_t i) {
        const auto n = (i * 2654435761u) % 1'000'003;
        put_number(s, 26, n & 0xFFFF, 2);
        put_number(s, 20, n >> 16, 2);
    });
    EXPECT_LE(ran.status, 1);
    EXPECT_GE(ran.status, 0);
}

TEST_F(Hostile, NothingButEntrySets) {
    exfat::Image card;
    const auto at = card.add(exfat::root, {.name = u"acts", .start = 20, .size = 4096, .folder = true});
    ByteVector sector(card.bytes.begin() + static_cast<std::ptrdiff_t>(at),
                      card.bytes.begin() + static_cast<std::ptrdiff_t>(at) + 96);
    sector.resize(512);
    const auto ran = sweep(sector, many, [](ByteVector& s, std::size_t i) {
        put_number(s, 52, 2 + i % 50'000, 4);
        put_number(s, 2, undershelf::exfat::set_checksum(Bytes(s).first(96)), 2);
    });
    EXPECT_LE(ran.status, 1);
    EXPECT_GE(ran.status, 0);
}

TEST_F(Hostile, NothingButFileRecords) {
    const auto record = ntfs::plain_record(30, 1, 1, {});
    const auto ran = sweep(record, many / 2, [](ByteVector& r, std::size_t i) { put_number(r, 44, i, 4); });
    EXPECT_LE(ran.status, 1);
    EXPECT_GE(ran.status, 0);
    const auto told = run("scan a.img --shelf a.shelf --volume-at 0,NTFS,4096");
    EXPECT_EQ(told.status, 0) << told.err;
}

TEST_F(Hostile, NothingButTreeNodes) {
    // A leaf with one thread record of a folder without a name.
    ByteVector node(512);
    node[8] = 0xFF;
    node[9] = 1;
    node[11] = 1;
    const std::size_t key = 14;
    node[key + 1] = 6;
    node[key + 5] = 20;
    node[key + 9] = 3;
    node[key + 11 + 6] = 2;
    node[510 + 1] = 14;
    node[508 + 1] = 14 + 8 + 10 + 8;
    const auto ran = sweep(node, many, [](ByteVector& n, std::size_t i) {
        put_number(n, 18, 0, 2);
        n[14 + 4] = static_cast<std::uint8_t>(i >> 8);
        n[14 + 5] = static_cast<std::uint8_t>(i | 1);
    });
    EXPECT_LE(ran.status, 1);
    EXPECT_GE(ran.status, 0);
    const auto told = run("scan a.img --shelf a.shelf --volume-at 0,HFS+,4096");
    EXPECT_LE(told.status, 1) << told.err;
    EXPECT_GE(told.status, 0);
}

TEST_F(Hostile, NothingButStretchesOfFats) {
    ByteVector sector(512);
    const auto ran = sweep(sector, many, [](ByteVector& s, std::size_t i) {
        const auto first = 3 + i * 977 % 1'000'000;
        for (std::size_t k = 0; k < 128; ++k) put_number(s, k * 4, first / 128 * 128 + k + 1, 4);
    });
    EXPECT_EQ(ran.status, 1);
    EXPECT_THAT(ran.err, HasSubstr("No supported volume"));
}

}  // namespace undershelf::test
