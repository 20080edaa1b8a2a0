#include "volume/tree.hpp"

#include <gtest/gtest.h>

#include <map>

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
    tree.finish([&](const TreeBuilder::Node&) {
        if (stand_ins) ++*stand_ins;
    });
    std::map<std::int64_t, std::string> out;
    for (const auto& n : tree.nodes()) out[n.id] = n.path;
    return out;
}
struct Counter {
    std::int64_t next = 1;
    std::int64_t operator()() { return next++; }
};
}  // namespace

TEST(TreeBuilder, WorksOutPathsInAnyOrder) {
    TreeBuilder tree(-1, Counter{});
    const auto inner = tree.add(folder(3, 2, "Act 1"));
    const auto middle = tree.add(folder(2, 1, "Summer play"));
    const auto outer = tree.add(folder(1, 0, "Scripts"));
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
    const auto a = tree.add(folder(1, 2, "a"));
    const auto b = tree.add(folder(2, 1, "b"));
    const auto self = tree.add(folder(3, 3, "self"));
    const auto all = paths(tree);
    EXPECT_TRUE((all.at(a) == "a" && all.at(b) == "a/b") || (all.at(b) == "b" && all.at(a) == "b/a"));
    EXPECT_EQ(all.at(self), "self");
}

TEST(TreeBuilder, BoundsEndlessNesting) {
    TreeBuilder tree(-1, Counter{});
    for (std::uint64_t i = 1; i <= 20'000; ++i) tree.add(folder(i, i - 1, "folder within a folder"));
    std::size_t most = 0;
    for (const auto& [id, path] : paths(tree)) most = std::max(most, path.size());
    EXPECT_LT(most, 10'000u);
}

TEST(TreeBuilder, GivesTwinsIdsOfTheirOwn) {
    TreeBuilder tree(-1, Counter{});
    EXPECT_NE(tree.add(folder(1, 0, "a")), tree.add(folder(1, 0, "a")));
}

}  // namespace undershelf
