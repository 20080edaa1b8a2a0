#include "shelf/folder_tree.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "shelf/groups.hpp"
#include "shelf/tree_rows.hpp"
#include "shelf/writer.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf {

namespace {

using ::testing::ElementsAre;

/// A shelf with a volume, made entry by entry.
class FolderTrees : public ::testing::Test {
  protected:
    struct Made {
        std::int64_t id, folder;
        std::string name;
        std::uint64_t size = 0;
        bool is_dir = false, helper = false;
        std::string first_path = {};
        Grade grade = Grade::likely;
        Origin origin = Origin::live;
    };
    void make(const std::vector<Made>& all) {
        ShelfWriter writer(SourceGuard::no_source(), path);
        writer.set_source({"/cards/card.img", 1 << 20, 512}, {});
        writer.begin_scan(Reach::volumes);
        Volume v;
        v.number = 1;
        v.family = "fat";
        v.file_system = "FAT16";
        writer.set_volumes({v});
        writer.add_folder(-1, 1, "");
        for (const auto& m : all) {
            Entry e;
            e.name = m.name;
            e.key = {static_cast<std::uint64_t>(m.id), 0};
            e.size = m.size;
            e.is_dir = m.is_dir;
            e.helper = m.helper;
            e.origin = m.origin;
            e.binned = !m.first_path.empty();
            e.first_path = m.first_path;
            e.layout = Layout::known;
            writer.add_entry(m.id, 1, m.folder, e, sorting_of(e), {1, 1, m.is_dir ? Grade::none : m.grade});
            if (m.is_dir) writer.add_folder(m.id, 1, m.name);
        }
        writer.end_scan("done");
    }
    /// `path files bytes likely`, by path.
    static std::vector<std::string> lines(const FolderTree& tree) {
        std::vector<std::string> out;
        for (FolderTree::Index i = 0; i < tree.size(); ++i) {
            const auto& t = tree.at(i).totals;
            if (!t.files && !tree.at(i).kept) continue;
            out.push_back(tree.path(i) + " " + std::to_string(t.files) + " " + std::to_string(t.bytes) + " " +
                          std::to_string(t.likely));
        }
        std::sort(out.begin(), out.end());
        return out;
    }

    test::TemporaryFolder folder;
    std::string path = folder.at("a.shelf");
    const std::vector<Made> season{{1, -1, "Scripts", 0, true},
                                   {2, 1, "Summer", 0, true},
                                   {3, 2, "fox.txt", 100},
                                   {4, 2, "owl.txt", 50, false, false, {}, Grade::gone, Origin::deleted},
                                   {5, 1, "notes.txt", 7},
                                   {6, -1, "$RECYCLE.BIN", 0, true, true},
                                   {7, 6, "$R1.txt", 30, false, false, "Scripts/Summer/crow.txt"},
                                   {8, 6, "$I1.txt", 5, false, true},
                                   {9, 6, "$R2.txt", 11, false, false, "Posters/Old/moon.png"},
                                   {10, 6, "$R3", 0, true, false, "Scripts/Winter"},
                                   {11, 10, "snow.txt", 20, false, false, "Scripts/Winter/snow.txt"}};
};

}  // namespace

TEST_F(FolderTrees, CountWhatIsBelowEachFolderWhereItIsShown) {
    make(season);
    const FolderTree tree{Shelf(path)};
    EXPECT_THAT(lines(tree),
                ElementsAre(" 6 218 5", "Posters 1 11 1", "Posters/Old 1 11 1", "Scripts 5 207 4",
                            "Scripts/Summer 3 180 2", "Scripts/Winter 1 20 1"));
}

TEST_F(FolderTrees, AreKeptInTheShelfAsTheyAreWorkedOut) {
    make(season);
    const Shelf shelf(path);
    const FolderTree kept(shelf), worked_out(shelf.database(), path);
    EXPECT_EQ(lines(kept), lines(worked_out));
    ASSERT_EQ(kept.size(), worked_out.size());
    for (FolderTree::Index i = 0; i < kept.size(); ++i) {
        EXPECT_EQ(kept.at(i).id, worked_out.at(i).id);
        EXPECT_EQ(kept.at(i).above, worked_out.at(i).above);
        EXPECT_EQ(kept.at(i).flags, worked_out.at(i).flags);
    }
    // While entries change there is nothing to go by.
    ShelfWriter writer(SourceGuard::no_source(), path);
    writer.begin_scan(Reach::volumes);
    EXPECT_EQ(Shelf(path).database().execAndGet("SELECT count(*) FROM shown_folders").getInt(), 0);
    EXPECT_EQ(lines(FolderTree(Shelf(path))), lines(kept));
}

TEST_F(FolderTrees, CountASelection) {
    make(season);
    const Shelf shelf(path);
    FolderTree tree(shelf);
    Selection lost;
    lost.lost = true;
    lost.no_helpers = true;
    const auto counted = count_in_tree(shelf, lost, tree);
    EXPECT_EQ(counted.sum.files, 4u);
    EXPECT_EQ(counted.sum.bytes, 111u);
    EXPECT_THAT(counted.files.ranges(),
                ElementsAre(ByteRange{4, 1}, ByteRange{7, 1}, ByteRange{9, 1}, ByteRange{11, 1}));
    EXPECT_THAT(lines(tree),
                ElementsAre(" 4 111 3", "Posters 1 11 1", "Posters/Old 1 11 1", "Scripts 3 100 2",
                            "Scripts/Summer 2 80 1", "Scripts/Winter 1 20 1"));
}

TEST_F(FolderTrees, GiveFilesFolderByFolderAndByName) {
    make(season);
    const Shelf shelf(path);
    FolderTree tree(shelf);
    tree.keep_all();
    tree.arrange();
    const auto order = tree.leaving_order({tree.root(1)});
    std::vector<std::string> names;
    Selection all;
    all.no_helpers = true;
    for_each_in_tree(shelf, all, tree, order,
                     [&](FolderTree::Index, const ShelfEntry& e) { names.push_back(e.shown_name()); });
    EXPECT_THAT(names, ElementsAre("moon.png", "crow.txt", "fox.txt", "owl.txt", "snow.txt", "notes.txt"));
    const auto shallow = tree.leaving_order({tree.root(1)}, 1);
    names.clear();
    for_each_in_tree(shelf, all, tree, shallow,
                     [&](FolderTree::Index, const ShelfEntry& e) { names.push_back(e.shown_name()); });
    EXPECT_THAT(names, ElementsAre("notes.txt"));
}

TEST_F(FolderTrees, LeaveOutWhatLeadsInACircle) {
    make({{1, 2, "a", 0, true}, {2, 1, "b", 0, true}, {3, 2, "lost.txt", 9}, {4, -1, "found.txt", 1}});
    const Shelf shelf(path);
    FolderTree tree(shelf);
    tree.keep_all();
    tree.arrange();
    EXPECT_EQ(tree.at(tree.root(1)).totals.files, 1u);
    EXPECT_FALSE(tree.path(tree.place_of({1, 2, 1, true, {}})).empty());
    EXPECT_EQ(tree.leaving_order({tree.root(1)})[tree.root(1)], 0u);
}

TEST_F(FolderTrees, OfAHostileShelfDoNoHarm) {
    make(season);
    {
        SQLite::Database db(path, SQLite::OPEN_READWRITE);
        db.exec("UPDATE shown_folders SET parent = id, files = -5, bytes = -1 WHERE id = 2");
        // A root in a folder of its own.
        db.exec("UPDATE shown_folders SET parent = 1, flags = 0 WHERE id = -1");
        db.exec("UPDATE shown_folders SET parent = -1 WHERE id = 1");
        db.exec("UPDATE shown_folders SET origin = 99, flags = 255 WHERE id = 1");
    }
    const Shelf shelf(path);
    FolderTree tree(shelf);
    tree.keep_all();
    tree.arrange();
    EXPECT_FALSE(tree.leaving_order({tree.root(1)}).empty());
    EXPECT_LE(groups_of(shelf, {}, GroupBy::folder, 1).size(), 20u);
    SQLite::Database(path, SQLite::OPEN_READWRITE).exec("UPDATE entries SET kind = 99 WHERE id = 3");
    EXPECT_THROW(groups_of(shelf, {}, GroupBy::kind), Error);
}

TEST_F(FolderTrees, AreNoDeeperThanFoldersAreNested) {
    std::string deep;
    for (int i = 0; i < 5000; ++i) deep += "d/";
    make({{1, -1, "$R1.txt", 3, false, false, deep + "moon.png"}});
    const Shelf shelf(path);
    const FolderTree tree(shelf);
    EXPECT_LE(tree.size(), 300u);
    EXPECT_EQ(tree.at(tree.root(1)).totals.bytes, 3u);
}

TEST_F(FolderTrees, MayBeTenThousandDeep) {
    std::vector<Made> deep;
    constexpr int depth = 10'000;
    for (int i = 1; i <= depth; ++i) deep.push_back({i, i == 1 ? -1 : i - 1, "d", 0, true});
    deep.push_back({depth + 1, depth, "moon.png", 3});
    make(deep);
    const Shelf shelf(path);
    FolderTree tree(shelf);
    tree.keep_all();
    tree.arrange();
    EXPECT_EQ(tree.at(tree.root(1)).totals.bytes, 3u);
    EXPECT_EQ(tree.leaving_order({tree.root(1)})[tree.root(1)], static_cast<FolderTree::Index>(depth));
    const auto groups = groups_of(shelf, {}, GroupBy::folder, 2);
    ASSERT_EQ(groups.size(), 1u);
    EXPECT_EQ(groups[0].text, "d/d");
    EXPECT_TRUE(groups[0].deep);
}

TEST_F(FolderTrees, MakeGroups) {
    make(season);
    const Shelf shelf(path);
    Selection all;
    all.no_helpers = true;
    const auto text = [&](GroupBy by, std::optional<unsigned> depth = {}) {
        std::vector<std::string> out;
        for (const auto& g : groups_of(shelf, all, by, depth))
            out.push_back(g.text + "#" + std::to_string(g.number) + (g.absent ? "-" : "") +
                          (g.deep ? "+" : "") + " " + std::to_string(g.files) + " " +
                          std::to_string(g.bytes));
        return out;
    };
    EXPECT_THAT(text(GroupBy::ext), ElementsAre("txt#0 6 218"));
    EXPECT_THAT(text(GroupBy::folder), ElementsAre("Posters/Old#1 1 11", "Scripts#1 1 7",
                                                   "Scripts/Summer#1 3 180", "Scripts/Winter#1 1 20"));
    EXPECT_THAT(text(GroupBy::folder, 1), ElementsAre("Posters#1+ 1 11", "Scripts#1+ 5 207"));
    EXPECT_THAT(text(GroupBy::year), ElementsAre("#0- 6 218"));
    EXPECT_THAT(text(GroupBy::grade), ElementsAre("#0 1 50", "#4 5 168"));
    EXPECT_THAT(text(GroupBy::volume), ElementsAre("#1 6 218"));
}

}  // namespace undershelf
