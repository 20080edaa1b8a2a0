#include "scan/bins.hpp"

#include <gtest/gtest.h>

#include "scan/scan.hpp"
#include "support/disk_image.hpp"
#include "support/fat_image.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf {

namespace {

std::string bin_record(int version, const std::u16string& path) {
    ByteVector b(version == 1 ? 544 : 28 + path.size() * 2 + 2);
    test::put_number(b, 0, static_cast<std::uint64_t>(version), 8);
    test::put_number(b, 8, 1234, 8);
    test::put_number(b, 16, 133'500'000'000'000'000, 8);
    const std::size_t at = version == 1 ? 24 : 28;
    if (version == 2) test::put_number(b, 24, path.size() + 1, 4);
    for (std::size_t i = 0; i < path.size(); ++i) test::put_number(b, at + i * 2, path[i], 2);
    return {b.begin(), b.end()};
}

std::optional<BinRecord> parse(const std::string& bytes) {
    return parse_bin_record({reinterpret_cast<const std::uint8_t*>(bytes.data()), bytes.size()});
}

}  // namespace

TEST(BinRecord, ReadsBothVersions) {
    for (const int version : {1, 2}) {
        const auto record = parse(bin_record(version, u"D:\\Scripts\\Winter play.txt"));
        ASSERT_TRUE(record) << version;
        EXPECT_EQ(record->first_path, "Scripts/Winter play.txt");
        EXPECT_EQ(record->size, 1234u);
        EXPECT_EQ(iso8601(*record->deleted), "2024-01-17T21:20:00Z");
    }
}

TEST(BinRecord, SurvivesDamage) {
    const auto sound = bin_record(2, u"D:\\x");
    for (std::size_t cut = 0; cut < sound.size(); ++cut) parse(sound.substr(0, cut));
    auto long_length = sound;
    for (int i = 24; i < 28; ++i) long_length[static_cast<std::size_t>(i)] = '\xFF';
    EXPECT_EQ(parse(long_length)->first_path, "x");
    EXPECT_FALSE(parse(std::string(100, '\0')));
}

TEST(TrashInfo, ReadsPathAndDate) {
    const auto info = parse_trash_info(
        "[Trash Info]\nPath=Scripts/Ma%C3%9Fe%20und%20F%C3%A4den.txt\nDeletionDate=2025-04-01T10:20:30\n");
    ASSERT_TRUE(info);
    EXPECT_EQ(info->first_path, "Scripts/Maße und Fäden.txt");
    EXPECT_EQ(iso8601(*info->deleted), "2025-04-01T10:20:30");
    EXPECT_FALSE(parse_trash_info("[Trash Info]\n"));
}

TEST(FindBinned, GivesFirstPathsToLiveAndDeletedFiles) {
    const test::TemporaryFolder folder;
    test::FatImage card({.clusters = 3000, .sectors_per_cluster = 4});
    const auto make = [&](fat::Cluster parent, const std::string& short_name, const std::u16string& name,
                          fat::Cluster c) {
        card.chain({c});
        card.make_folder(c, parent);
        card.add(parent, {short_name, name, c, 0, 0x10});
    };
    make(0, "$RECYC~1BIN", u"$RECYCLE.BIN", 10);
    card.put(10, "$RABC12 TXT", u"$RABC12.txt", {11}, "the play");
    card.put(10, "$IABC12 TXT", u"$IABC12.txt", {12}, bin_record(2, u"E:\\Scripts\\Winter play.txt"));
    make(10, "$RDIR       ", u"$RDIR00", 13);
    card.put(13, "INNER   TXT", u"inner.txt", {14}, "inner");
    card.put(10, "$IDIR       ", u"$IDIR00", {15}, bin_record(2, u"E:\\Old season"));
    make(0, "TRASH~1    ", u".Trash-1000", 20);
    make(20, "FILES      ", u"files", 21);
    make(20, "INFO       ", u"info", 22);
    card.erase(card.put(21, "OWL     WAV", u"owl.wav", {23}, "RIFFxxxxWAVE"));
    card.put(22, "OWLWAV~1TRA", u"owl.wav.trashinfo", {24},
             "[Trash Info]\nPath=Sound/owl.wav\nDeletionDate=2025-04-01T10:20:30\n");
    const auto image = folder.write("card.img", card.bytes());
    Progress progress;
    scan({image, folder.at("card.shelf"), {}, {}}, progress);
    std::map<std::string, ShelfEntry> seen;
    Shelf(folder.at("card.shelf")).for_each({}, {}, [&](const ShelfEntry& e) {
        seen[e.name] = e;
        return true;
    });
    EXPECT_EQ(seen["$RABC12.txt"].first_path, "Scripts/Winter play.txt");
    EXPECT_TRUE(seen["$RABC12.txt"].binned);
    ASSERT_TRUE(seen["$RABC12.txt"].deleted);
    EXPECT_EQ(iso8601(*seen["$RABC12.txt"].deleted), "2024-01-17T21:20:00Z");
    EXPECT_EQ(seen["inner.txt"].first_path, "Old season/inner.txt");
    EXPECT_EQ(seen["owl.wav"].first_path, "Sound/owl.wav");
    EXPECT_EQ(seen["owl.wav"].origin, Origin::deleted);
    EXPECT_FALSE(seen["files"].binned && seen["files"].first_path.size());
}

}  // namespace undershelf
