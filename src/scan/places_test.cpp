#include "scan/places.hpp"

#include <gtest/gtest.h>

#include <map>

#include "scan/scan.hpp"
#include "support/bin_files.hpp"
#include "support/ds_store_file.hpp"
#include "support/fat_image.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf {

namespace {

struct FatName {
    std::string short_name;
    std::u16string long_name;
};

/// What a scan lists of a card, by path.
std::map<std::string, ShelfEntry> scanned(const test::TemporaryFolder& folder, const ByteVector& bytes,
                                          Reach reach = Reach::volumes) {
    const auto image = folder.write("card.img", bytes);
    ScanOptions options{image, folder.at("card.shelf"), {}, {}};
    options.reach = reach;
    Progress progress;
    scan(options, progress);
    std::map<std::string, ShelfEntry> out;
    Shelf(folder.at("card.shelf")).for_each({}, {}, [&](const ShelfEntry& e) {
        out[e.path()] = e;
        return true;
    });
    return out;
}

std::vector<std::string> selected(const test::TemporaryFolder& folder, const Selection& selection) {
    std::vector<std::string> out;
    Shelf(folder.at("card.shelf")).for_each(selection, {}, [&](const ShelfEntry& e) {
        out.push_back(e.path());
        return true;
    });
    return out;
}

/// A FAT card with folders.
struct Card : test::FatImage {
    Card() : FatImage({.clusters = 3000, .sectors_per_cluster = 4}) {}
    std::uint64_t make(fat::Cluster parent, const std::string& short_name, const std::u16string& name,
                       fat::Cluster c) {
        chain({c});
        make_folder(c, parent);
        return add(parent, {short_name, name, c, 0, 0x10});
    }
    /// A file that was moved from one folder to another, and then deleted there.
    void put_moved(fat::Cluster from, const FatName& before, fat::Cluster to, const FatName& after,
                   fat::Cluster start, const std::string& content) {
        fill(start, content);
        for (const auto& [folder, name] : {std::pair{from, before}, {to, after}})
            erase(add(folder,
                      {name.short_name, name.long_name, start, static_cast<std::uint32_t>(content.size())}));
    }
};

}  // namespace

TEST(Places, OfBinnedFilesAreTheFirstOnes) {
    const test::TemporaryFolder folder;
    Card card;
    card.make(0, "$RECYC~1BIN", u"$RECYCLE.BIN", 10);
    card.put(10, "$RABC12 TXT", u"$RABC12.txt", {11}, "the play");
    card.put(10, "$IABC12 TXT", u"$IABC12.txt", {12},
             test::windows_record(2, u"E:\\Scripts\\Winter play.txt"));
    card.make(10, "$RDIR       ", u"$RDIR00", 13);
    card.put(13, "INNER   TXT", u"inner.txt", {14}, "inner");
    card.put(10, "$IDIR       ", u"$IDIR00", {15}, test::windows_record(2, u"E:\\Old season"));
    card.make(0, "TRASH~1    ", u".Trash-1000", 20);
    card.make(20, "FILES      ", u"files", 21);
    card.make(20, "INFO       ", u"info", 22);
    card.erase(card.put(21, "OWL     WAV", u"owl.wav", {23}, "RIFFxxxxWAVE"));
    card.put(22, "OWLWAV~1TRA", u"owl.wav.trashinfo", {24},
             "[Trash Info]\nPath=Sound/owl.wav\nDeletionDate=2025-04-01T10:20:30\n");
    auto seen = scanned(folder, card.bytes());
    const auto& play = seen["$RECYCLE.BIN/$RABC12.txt"];
    EXPECT_EQ(play.first_path, "Scripts/Winter play.txt");
    EXPECT_TRUE(play.binned);
    ASSERT_TRUE(play.deleted);
    EXPECT_EQ(iso8601(*play.deleted), "2024-01-17T21:20:00Z");
    EXPECT_EQ(seen["$RECYCLE.BIN/$RDIR00/inner.txt"].first_path, "Old season/inner.txt");
    EXPECT_EQ(seen[".Trash-1000/files/owl.wav"].first_path, "Sound/owl.wav");
    EXPECT_EQ(seen[".Trash-1000/files/owl.wav"].origin, Origin::deleted);
    EXPECT_FALSE(seen[".Trash-1000/files"].binned);
    Selection shown;
    shown.no_helpers = true;
    EXPECT_EQ(selected(folder, shown).size(), 4u);
    for (const char* helper : {"$RECYCLE.BIN", "$RECYCLE.BIN/$IABC12.txt", ".Trash-1000", ".Trash-1000/files",
                               ".Trash-1000/info", ".Trash-1000/info/owl.wav.trashinfo"})
        EXPECT_TRUE(seen[helper].helper) << helper;
    // People ask for what they knew.
    Selection by_name;
    by_name.names = {"winter*"};
    EXPECT_EQ(selected(folder, by_name), std::vector<std::string>{"$RECYCLE.BIN/$RABC12.txt"});
    Selection by_folder;
    by_folder.under = {"old season"};
    EXPECT_EQ(selected(folder, by_folder), std::vector<std::string>{"$RECYCLE.BIN/$RDIR00/inner.txt"});
}

TEST(Places, OfAnEmptiedBinBecomeOneEntry) {
    const test::TemporaryFolder folder;
    Card card;
    card.make(0, "SCRIPTS    ", u"", 9);
    card.make(0, "RECYCLED   ", u"", 10);
    const auto content = test::sample_text("play", 900);
    card.put_moved(9, {"WINTER~1TXT", u"Winter play.txt"}, 10, {"DE1     TXT", u"De1.txt"}, 11, content);
    // No record tells of this one.
    card.put_moved(9, {"SPRING~1TXT", u"Spring play.txt"}, 10, {"DE2     TXT", u"De2.txt"}, 12,
                   test::sample_text("spring", 900));
    const auto index = test::info2(800, "", u"E:\\Scripts\\Winter play.txt", 1, 4);
    card.erase(card.put(10, "INFO2      ", u"", {20}, {index.begin(), index.end()}));
    auto seen = scanned(folder, card.bytes());
    EXPECT_FALSE(seen.count("SCRIPTS/Winter play.txt"));
    const auto& winter = seen["RECYCLED/De1.txt"];
    EXPECT_EQ(winter.first_path, "Scripts/Winter play.txt");
    EXPECT_EQ(winter.earlier_names, std::vector<std::string>{"SCRIPTS/Winter play.txt"});
    EXPECT_EQ(winter.rating.grade, Grade::likely);
    ASSERT_TRUE(winter.deleted);
    EXPECT_EQ(iso8601(*winter.deleted), "2024-01-17T21:20:00Z");
    EXPECT_EQ(seen["RECYCLED/De2.txt"].first_path, "SCRIPTS/Spring play.txt");
    EXPECT_TRUE(seen["RECYCLED/_NFO2"].helper);
    Selection before;
    before.under = {"scripts"};
    EXPECT_EQ(selected(folder, before).size(), 2u);
}

TEST(Places, OfAnExpungedFileAreTheFirstOnes) {
    // A file manager that deletes for good gives the thing a number first.
    const test::TemporaryFolder folder;
    Card card;
    card.make(0, "TRASH~1    ", u".Trash-1000", 20);
    card.make(20, "FILES      ", u"files", 21);
    card.make(20, "INFO       ", u"info", 22);
    card.make(20, "EXPUNGED   ", u"expunged", 23);
    card.put_moved(21, {"OWL     PNG", u"owl.png"}, 23, {"1734201    ", u"1734201"}, 25,
                   "\x89PNG\r\n\x1a\n" + std::string(500, 7));
    card.put(22, "OWLPNG~1TRA", u"owl.png.trashinfo", {24}, "[Trash Info]\nPath=Sound/night%20owl.png\n");
    auto seen = scanned(folder, card.bytes());
    const auto& owl = seen[".Trash-1000/expunged/1734201"];
    EXPECT_EQ(owl.first_path, "Sound/night owl.png");
    EXPECT_EQ(owl.ext, "png");
    EXPECT_EQ(owl.kind, Kind::picture);
    EXPECT_FALSE(seen.count(".Trash-1000/files/owl.png"));
}

TEST(Places, OfAMacsBinAreTheFirstOnes) {
    const test::TemporaryFolder folder;
    Card card;
    card.make(0, "TRASHE~1   ", u".Trashes", 20);
    card.make(20, "501        ", u"501", 21);
    card.erase(card.put(21, "OWL2    WAV", u"owl 2.wav", {22}, "RIFFxxxxWAVE"));
    const auto store =
        test::ds_store::store(test::ds_store::leaf_with(u"owl 2.wav", u"Sound/Night/", u"owl.wav"));
    std::vector<fat::Cluster> clusters;
    for (fat::Cluster c = 30; (c - 30) * 2048 < store.size(); ++c) clusters.push_back(c);
    card.put(21, "DS_STO~1   ", u".DS_Store", clusters, {store.begin(), store.end()});
    auto seen = scanned(folder, card.bytes());
    EXPECT_EQ(seen[".Trashes/501/owl 2.wav"].first_path, "Sound/Night/owl.wav");
    EXPECT_TRUE(seen[".Trashes/501/.DS_Store"].helper);
    EXPECT_TRUE(seen[".Trashes/501"].helper);
}

TEST(Places, AreNotSoughtInWhatIsNoRecord) {
    // Records are small: a large file of such a name is not one, and is not read as one.
    const test::TemporaryFolder folder;
    Card card;
    card.make(0, "$RECYC~1BIN", u"$RECYCLE.BIN", 10);
    card.put(10, "$RABC12 TXT", u"$RABC12.txt", {11}, "the play");
    std::vector<fat::Cluster> clusters;
    for (fat::Cluster c = 100; c < 140; ++c) clusters.push_back(c);
    auto record = test::windows_record(2, u"E:\\Scripts\\Winter play.txt");
    record.resize(80 << 10);
    card.put(10, "$IABC12 TXT", u"$IABC12.txt", clusters, record);
    auto seen = scanned(folder, card.bytes());
    EXPECT_TRUE(seen["$RECYCLE.BIN/$RABC12.txt"].binned);
    EXPECT_EQ(seen["$RECYCLE.BIN/$RABC12.txt"].first_path, "");
}

TEST(Places, OfAMovedFolderKeepWhatIsInIt) {
    const test::TemporaryFolder folder;
    Card card;
    const auto before = card.make(0, "SEASON     ", u"Season", 10);
    card.make(0, "ARCHIVE    ", u"Archive", 11);
    // Two entries of one folder: where it was, and where it came to.
    const auto after = card.add(11, {"SEASON1    ", u"Season 1", 10, 0, 0x10});
    const auto inner = card.make(10, "ACT1       ", u"Act 1", 12);
    const auto cue = card.put(12, "CUE     TXT", u"cue.txt", {13}, test::sample_text("cue", 700));
    for (const auto slot : {before, after, inner, cue}) card.erase(slot);
    auto seen = scanned(folder, card.bytes());
    EXPECT_TRUE(seen.count("Archive/Season 1/Act 1/cue.txt"));
    EXPECT_FALSE(seen.count("Season"));
    Selection as_it_was;
    as_it_was.under = {"season/act 1"};
    EXPECT_EQ(selected(folder, as_it_was), std::vector<std::string>{"Archive/Season 1/Act 1/cue.txt"});
    EXPECT_EQ(Shelf(folder.at("card.shelf")).count({}), 4u);
}

TEST(Places, OfAFormerVolumeAreTheLatest) {
    // The entry that was in use when the volume was formatted has the content.
    const test::TemporaryFolder folder;
    const test::FatShape shape{.clusters = 3000, .sectors_per_cluster = 2};
    test::FatImage old(shape);
    for (const auto& [cluster, name] : {std::pair{7u, "SCRIPTS    "}, {90u, "POSTERS    "}}) {
        old.chain({cluster});
        old.make_folder(cluster, 0);
        old.add(0, {name, {}, cluster, 0, fat::ATTR_DIRECTORY});
    }
    for (unsigned i = 0; i < 5; ++i)
        old.put(90, "HALL" + std::to_string(i) + "   TXT", u"", {120 + i}, test::sample_text("hall", 500));
    const auto content = test::sample_text("play", 900);
    old.erase(old.add(7, {"DRAFT   TXT", u"the draft.txt", 100, 900}));
    old.put(90, "PLAY    TXT", u"the play.txt", {100}, content);
    test::FatImage fresh(shape);
    std::copy_n(fresh.bytes().begin(), fresh.cluster_offset(3), old.bytes().begin());
    auto seen = scanned(folder, old.bytes(), Reach::traces);
    std::vector<const ShelfEntry*> plays;
    for (const auto& [path, e] : seen) {
        EXPECT_NE(e.name, "the draft.txt");
        if (e.name == "the play.txt") plays.push_back(&e);
    }
    ASSERT_EQ(plays.size(), 1u);
    EXPECT_EQ(plays[0]->rating.grade, Grade::likely);
    ASSERT_EQ(plays[0]->earlier_names.size(), 1u);
    EXPECT_TRUE(plays[0]->earlier_names[0].ends_with("/the draft.txt"));
}

}  // namespace undershelf
