#include "scan/settle.hpp"

#include <gtest/gtest.h>

#include <filesystem>

#include "scan/scan.hpp"
#include "support/exfat_image.hpp"
#include "support/formatted_card.hpp"
#include "support/shelf_rows.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf {

namespace {

namespace fs = std::filesystem;

ScanOptions options(const std::string& image, const std::string& shelf, Reach reach = Reach::traces) {
    ScanOptions out;
    out.source_path = image;
    out.shelf_path = shelf;
    out.reach = reach;
    return out;
}

std::vector<ShelfEntry> entries(const std::string& shelf, int volume = 0) {
    std::vector<ShelfEntry> out;
    Shelf(shelf).for_each({}, {}, [&](const ShelfEntry& e) {
        if (volume == 0 || e.volume == volume) out.push_back(e);
        return true;
    });
    return out;
}
const ShelfEntry* find(const std::vector<ShelfEntry>& all, const std::string& name) {
    for (const auto& e : all) {
        if (e.name == name) return &e;
    }
    return nullptr;
}

/// Copies the shelf, as a power cut would leave it, each time something is said.
class PowerCuts final : public Progress {
  public:
    PowerCuts(std::string shelf, fs::path into) : shelf_(std::move(shelf)), into_(std::move(into)) {}
    void stage(std::string_view) override { cut(); }
    void at(std::uint64_t, std::uint64_t) override { cut(); }
    void found(std::uint64_t) override { cut(); }
    void traces(std::uint64_t) override { cut(); }
    int cuts = 0;

  private:
    void cut() {
        if (!fs::exists(shelf_)) return;
        const auto folder = into_ / std::to_string(cuts++);
        fs::create_directory(folder);
        for (const char* tail : {"", "-wal"}) {
            if (fs::exists(shelf_ + tail))
                fs::copy_file(shelf_ + tail, folder / ("a.shelf" + std::string(tail)));
        }
    }
    std::string shelf_;
    fs::path into_;
};

struct EnoughAtOnce final : Progress {
    void stage(std::string_view what) override { sweeping = what == "sweeping"; }
    bool enough() override { return sweeping; }
    bool sweeping = false;
};

}  // namespace

TEST(Settle, ListsWhatAFormatLeft) {
    const test::TemporaryFolder folder;
    const auto image = folder.write("card.img", test::formatted_card().bytes());
    const auto shelf = folder.at("a.shelf");
    Progress progress;
    const auto result = scan(options(image, shelf), progress);
    ASSERT_EQ(result.volumes.size(), 2u);
    const auto& former = result.volumes[1];
    EXPECT_EQ(former.state, VolumeState::former);
    EXPECT_EQ(former.number, 2);
    const auto lost = entries(shelf, 2);
    const auto* cues = find(lost, "CUES.TXT");
    ASSERT_TRUE(cues);
    EXPECT_EQ(cues->origin, Origin::former);
    EXPECT_EQ(cues->path(), "folder-7/ACT1/CUES.TXT");
    const auto* draft = find(lost, "_RAFT.TXT");
    ASSERT_TRUE(draft);
    EXPECT_TRUE(has_fact(Shelf(shelf).evidence(draft->id), Fact::deleted_before));
    EXPECT_FALSE(has_fact(Shelf(shelf).evidence(cues->id), Fact::deleted_before));
    // Nothing of it is listed twice.
    const auto present = entries(shelf, 1);
    EXPECT_TRUE(find(present, "NEW.TXT"));
    EXPECT_FALSE(find(present, "CUES.TXT"));
}

TEST(Settle, WhatWasListedWithoutANameBecomesTheFormerVolumes) {
    const test::TemporaryFolder folder;
    const auto image = folder.write("card.img", test::formatted_card().bytes());
    const auto shelf = folder.at("a.shelf");
    Progress progress;
    scan(options(image, shelf, Reach::volumes), progress);
    const auto before = entries(shelf);
    const auto* cues = find(before, "CUES.TXT");
    const auto* fresh = find(before, "NEW.TXT");
    ASSERT_TRUE(cues && fresh);
    EXPECT_EQ(cues->origin, Origin::deleted);
    Shelf marked(shelf, Shelf::Access::mark);
    Selection one;
    add_id(one.ids, cues->id);
    marked.mark(one, true);
    marked.mark(one, true, "cues");
    scan(options(image, shelf), progress);
    const auto after = entries(shelf);
    ASSERT_TRUE(find(after, "NEW.TXT"));
    EXPECT_EQ(find(after, "NEW.TXT")->id, fresh->id);
    const auto* now = find(after, "CUES.TXT");
    ASSERT_TRUE(now);
    EXPECT_NE(now->id, cues->id);
    EXPECT_TRUE(now->marked);
    EXPECT_EQ(Shelf(shelf).entry(now->id)->marks, std::vector<std::string>{"cues"});
    const auto aside = Shelf(shelf).set_aside(cues->id);
    ASSERT_TRUE(aside);
    EXPECT_EQ(aside->merged_into, now->id);
    EXPECT_FALSE(Shelf(shelf).set_aside(now->id));
}

TEST(Settle, AnImageThatIsAFileOfALiveVolumeIsAFile) {
    const auto inner = test::formatted_card().bytes();
    test::FatImage outer({.clusters = 8000, .sectors_per_cluster = 2});
    std::vector<fat::Cluster> chain((inner.size() + 1023) / 1024);
    for (std::size_t i = 0; i < chain.size(); ++i) chain[i] = static_cast<fat::Cluster>(1000 + i);
    outer.put(0, "CARD    IMG", u"", chain, std::string(inner.begin(), inner.end()));
    const test::TemporaryFolder folder;
    const auto image = folder.write("stick.img", outer.bytes());
    Progress progress;
    const auto result = scan(options(image, folder.at("a.shelf")), progress);
    ASSERT_EQ(result.volumes.size(), 1u);
    EXPECT_EQ(result.volumes[0].state, VolumeState::present);
    const auto all = entries(folder.at("a.shelf"));
    EXPECT_TRUE(find(all, "CARD.IMG"));
    EXPECT_FALSE(find(all, "CUES.TXT"));
}

TEST(Settle, AfterAPowerCutTheShelfComesOutTheSame) {
    const test::TemporaryFolder folder;
    auto disk = test::formatted_card().bytes();
    disk.resize(12 << 20);
    const auto image = folder.write("card.img", disk);
    const auto whole = folder.at("whole.shelf");
    PowerCuts cuts(whole, folder.path());
    scan(options(image, whole), cuts);
    ASSERT_GT(cuts.cuts, 10);
    const auto expected = test::shelf_rows(whole);
    Progress progress;
    for (int i = 0; i < cuts.cuts; ++i) {
        const auto shelf = (folder.path() / std::to_string(i) / "a.shelf").string();
        scan(options(image, shelf), progress);
        EXPECT_EQ(test::shelf_rows(shelf), expected) << "cut " << i;
    }
}

TEST(Settle, WhatAnEarlyEndSettledComesOutTheSameButForIds) {
    const test::TemporaryFolder folder;
    auto disk = test::formatted_card().bytes();
    disk.resize(12 << 20);
    const auto image = folder.write("card.img", disk);
    const auto shelf = folder.at("a.shelf"), whole = folder.at("whole.shelf");
    EnoughAtOnce early;
    EXPECT_TRUE(scan(options(image, shelf), early).interrupted);
    const auto part = entries(shelf, 2);
    const auto* cues = find(part, "CUES.TXT");
    ASSERT_TRUE(cues);
    Progress progress;
    scan(options(image, shelf), progress);
    scan(options(image, whole), progress);
    const auto now = entries(shelf, 2);
    ASSERT_TRUE(find(now, "CUES.TXT"));
    EXPECT_EQ(find(now, "CUES.TXT")->id, cues->id);
    EXPECT_EQ(now.size(), entries(whole, 2).size());
}

TEST(Settle, KeepsWhatATechnicianSays) {
    const test::TemporaryFolder folder;
    const auto card = test::formatted_card();
    auto bytes = test::formatted_card().bytes();
    const auto image = folder.write("card.img", bytes);
    const auto shelf = folder.at("a.shelf");
    Progress progress;
    scan(options(image, shelf), progress);
    const auto before = entries(shelf, 2);
    auto without = options(image, shelf);
    without.without = {2};
    EXPECT_EQ(scan(without, progress).volumes.size(), 1u);
    EXPECT_TRUE(entries(shelf, 2).empty());
    EXPECT_TRUE(Shelf(shelf).set_aside(before.front().id));
    EXPECT_THROW(scan(without, progress), Error);
    without.without = {1};
    EXPECT_THROW(scan(without, progress), Error);
    // Told, it is there again, under its number and with its ids.
    auto told = options(image, shelf);
    told.told = {{0, "FAT32", 1024u, card.geometry().data_offset}};
    const auto result = scan(told, progress);
    ASSERT_EQ(result.volumes.size(), 2u);
    EXPECT_EQ(result.volumes[1].number, 2);
    EXPECT_EQ(result.volumes[1].found_by, "told");
    const auto again = entries(shelf, 2);
    ASSERT_EQ(again.size(), before.size());
    for (std::size_t i = 0; i < again.size(); ++i) EXPECT_EQ(again[i].id, before[i].id);
    told.told = {{0, "FAT32", {}, {}}};
    EXPECT_THROW(scan(told, progress), Error);  // that one is present
    told.told = {{512, "NTFS", {}, {}}};
    EXPECT_THROW(scan(told, progress), Error);
    // What could not be is forgotten.
    EXPECT_NO_THROW(scan(options(image, shelf), progress));
    EXPECT_EQ(Shelf(shelf).volumes().size(), 2u);
}

TEST(Settle, SetsInTheSlackOfALiveFileAreTheFormerVolumes) {
    using namespace test::exfat;
    constexpr clusters::Cluster scripts = 20, posters = 60;
    constexpr std::uint32_t later = 0x5B645000;  // 2025-11-04
    const test::TemporaryFolder folder;
    Image card;
    card.add(root, {.name = u"scripts", .start = scripts, .size = cluster_size, .folder = true});
    card.add(root, {.name = u"posters", .start = posters, .size = cluster_size, .folder = true});
    const auto put = [&](clusters::Cluster in, std::u16string name, clusters::Cluster at, bool chained) {
        const std::uint64_t size = chained ? 3 * cluster_size : 900;
        card.fill(at, test::sample_text("cue", size));
        return card.add(in, {.name = std::move(name), .start = at, .size = size, .chained = chained});
    };
    for (unsigned i = 0; i < 9; ++i) {
        put(scripts, u"cue" + std::u16string(1, static_cast<char16_t>(u'0' + i)) + u".txt", 100 + i, false);
        put(posters, u"hall" + std::u16string(1, static_cast<char16_t>(u'0' + i)) + u".txt", 120 + i, false);
    }
    put(scripts, u"long.txt", 140, true);
    // Formatted, and a file of today begins in what was a folder.
    const auto slots = card.place(root) + 2 * 32;
    std::fill_n(card.bytes.begin() + static_cast<std::ptrdiff_t>(slots), cluster_size - 64, 0);
    Image fresh;
    const auto set = fresh.add(root, {.name = u"new.txt", .start = posters, .size = 300, .created = later});
    std::copy_n(fresh.bytes.begin() + static_cast<std::ptrdiff_t>(set), 96,
                card.bytes.begin() + static_cast<std::ptrdiff_t>(slots));
    card.use(posters);
    card.fill(posters, test::sample_text("new", 320));
    const auto image = folder.write("card.img", card.bytes);
    const auto shelf = folder.at("a.shelf");
    Progress progress;
    scan(options(image, shelf, Reach::volumes), progress);
    ASSERT_TRUE(find(entries(shelf, 1), "hall5.txt"));
    scan(options(image, shelf), progress);
    // 300 bytes are three sets and the first slot of the fourth, whose name is left.
    for (const char* name : {"hall3.txt", "hall4.txt", "hall8.txt"}) {
        EXPECT_FALSE(find(entries(shelf, 1), name)) << name;
        const auto all = entries(shelf, 2);
        ASSERT_TRUE(find(all, name)) << name;
        EXPECT_EQ(find(all, name)->origin, Origin::former);
    }
    // A former volume has no live files to tell that its drivers keep a chain where one run needs none.
    const auto all = entries(shelf, 2);
    ASSERT_TRUE(find(all, "long.txt"));
    EXPECT_EQ(find(all, "long.txt")->rating.grade, Grade::doubtful);
    EXPECT_EQ(find(all, "cue3.txt")->rating.grade, Grade::likely);
}

}  // namespace undershelf
