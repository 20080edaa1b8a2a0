#include "volume/tree.hpp"

#include <gtest/gtest.h>

#include <map>

#include "volume/budget.hpp"

namespace undershelf {

namespace {
Entry folder(std::uint64_t key, std::uint64_t parent, const std::string& name) {
    Entry e;
    e.key = {key, 0};
    e.parent = parent ? EntryKey{parent, 0} : root_key;
    e.name = name;
    e.is_dir = true;
    return e;
}
std::map<std::int64_t, std::string> paths(TreeBuilder& tree, int* stand_ins = nullptr) {
    tree.finish(
        [&](const TreeBuilder::Node&) {
            if (stand_ins) ++*stand_ins;
        },
        [](const TreeBuilder::Node&, const std::string&) {});
    std::map<std::int64_t, std::string> out;
    for (const auto& n : tree.nodes()) out[n.id] = tree.path_of(n);
    return out;
}
struct Counter {
    std::int64_t next = 1;
    std::int64_t operator()(const EntryKey&) { return next++; }
};
}  // namespace

TEST(TreeBuilder, WorksOutPathsInAnyOrder) {
    TreeBuilder tree(-1, Counter{});
    const auto inner = tree.add(folder(3, 2, "Act 1")).id;
    const auto middle = tree.add(folder(2, 1, "Summer play")).id;
    const auto outer = tree.add(folder(1, 0, "Scripts")).id;
    const auto all = paths(tree);
    EXPECT_EQ(all.at(inner), "Scripts/Summer play/Act 1");
    EXPECT_EQ(all.at(middle), "Scripts/Summer play");
    EXPECT_EQ(all.at(outer), "Scripts");
    EXPECT_EQ(all.at(-1), "");
}

TEST(TreeBuilder, StandsInForFoldersNobodyTells) {
    TreeBuilder tree(-1, Counter{});
    const auto id = tree.folder({4711, 0});
    int stand_ins = 0;
    EXPECT_EQ(paths(tree, &stand_ins).at(id), "folder-4711");
    EXPECT_EQ(stand_ins, 1);
}

TEST(TreeBuilder, CutsCircles) {
    TreeBuilder tree(-1, Counter{});
    const auto a = tree.add(folder(1, 2, "a")).id;
    const auto b = tree.add(folder(2, 1, "b")).id;
    const auto self = tree.add(folder(3, 3, "self")).id;
    const auto all = paths(tree);
    EXPECT_TRUE((all.at(a) == "a" && all.at(b) == "a/b") || (all.at(b) == "b" && all.at(a) == "b/a"));
    EXPECT_EQ(all.at(self), "self");
}

TEST(TreeBuilder, PutsWhatStandsBelowACircleUnderItsTop) {
    TreeBuilder tree(-1, Counter{});
    const auto below = tree.add(folder(9, 1, "below")).id;
    const auto a = tree.add(folder(1, 2, "a")).id;
    const auto b = tree.add(folder(2, 1, "b")).id;
    const auto all = paths(tree);
    EXPECT_EQ(all.at(below), all.at(a) + "/below");
    // Parents say the same as paths: each folder reaches the root.
    for (const auto& n : tree.nodes()) {
        std::size_t steps = 0;
        for (auto at = n.parent; at != 0 && steps < 10; at = tree.nodes()[at].parent) ++steps;
        EXPECT_LT(steps, 10u) << n.name;
    }
    EXPECT_NE(all.at(a), all.at(b));
}

TEST(TreeBuilder, MovesWhatIsTooDeepToTheRoot) {
    TreeBuilder tree(-1, Counter{});
    std::size_t moved = 0, longest = 0;
    for (std::uint64_t i = 1; i <= 20'000; ++i) {
        const auto placed = tree.add(folder(i, i - 1, "folder within a folder"));
        moved += placed.moved == TreeBuilder::Moved::too_deep;
        if (placed.moved != TreeBuilder::Moved::no) {
            EXPECT_EQ(placed.parent_id, -1);
        }
        longest = std::max(longest, placed.path->size());
    }
    EXPECT_EQ(moved, 20'000 / bound::folder_depth);
    EXPECT_LE(longest, bound::path_bytes);
}

TEST(TreeBuilder, BoundsNestingThatComesBackwards) {
    TreeBuilder tree(-1, Counter{});
    for (std::uint64_t i = 20'000; i > 0; --i) tree.add(folder(i, i - 1, std::string(200, 'n')));
    std::size_t longest = 0;
    for (const auto& [id, path] : paths(tree)) longest = std::max(longest, path.size());
    EXPECT_LE(longest, bound::path_bytes);
    EXPECT_GT(longest, bound::path_bytes / 2);
}

TEST(TreeBuilder, BoundsAllPathsTogether) {
    TreeBuilder tree(-1, Counter{});
    std::uint64_t total = 0;
    for (std::uint64_t i = 1; i <= 20'000; ++i)
        total += tree.add(folder(i, i - 1, std::string(250, 'n'))).path->size();
    EXPECT_LE(total, bound::all_paths_bytes + 20'001 * bound::path_bytes_each);
}

TEST(TreeBuilder, GivesTwinsIdsOfTheirOwn) {
    TreeBuilder tree(-1, Counter{});
    EXPECT_NE(tree.add(folder(1, 0, "a")).id, tree.add(folder(1, 0, "a")).id);
}

}  // namespace undershelf
