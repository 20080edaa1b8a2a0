#include "clusters/lost_steps.hpp"

#include <gtest/gtest.h>

#include <map>

#include "support/memory_device.hpp"

namespace undershelf::clusters {

namespace {

constexpr std::uint32_t cluster_size = 512;
constexpr auto minute = 60 * Timestamp::per_second;
using Runs = std::vector<Run>;

/// A volume of a hundred clusters with lost files on it.
class AroundLostFiles : public ::testing::Test {
  protected:
    /// A lost file of so many clusters that begins with `head`, written at this minute.
    void lose(std::uint64_t id, const std::string& name, Cluster start, std::uint32_t clusters,
              const std::string& head, int written) {
        std::copy(head.begin(), head.end(), bytes.begin() + grid.offset(start));
        files.push_back({id, name, start, clusters, written});
    }

    /// Which files lie in other runs than were guessed at first.
    std::map<std::uint64_t, Runs> settled() {
        const auto source = test::memory_source(bytes);
        const LostLayout layout(grid, busy, live);
        LostSteps steps(*source, grid);
        for (const auto& f : files) {
            Entry e;
            e.key = {f.id, 0};
            e.name = f.name;
            e.size = std::uint64_t{f.clusters} * cluster_size;
            steps.add_guessed(e, layout, f.start, f.written * minute);
        }
        std::map<std::uint64_t, Runs> out;
        Budget budget(100, 100 * cluster_size);
        for (std::size_t i = 0; i < files.size(); ++i) budget.found();
        steps.settle(budget, Progress(), [&](auto&& found) { out[found.key.a] = found.runs; });
        return out;
    }

    struct File {
        std::uint64_t id;
        std::string name;
        Cluster start;
        std::uint32_t clusters;
        int written;
    };
    Grid grid{0, cluster_size, 100};
    ByteVector bytes = ByteVector(100 * cluster_size, 1);
    ClusterSet busy{100};
    std::vector<LiveExtent> live;
    std::vector<File> files;
    const std::string png = "\x89PNG\r\n\x1a\n";
};

}  // namespace

TEST_F(AroundLostFiles, GoesOnBehindAnOlderFileThatStillStands) {
    lose(1, "poster.png", 12, 3, png, 5);
    lose(2, "late.dat", 10, 6, "late", 9);
    const auto seen = settled();
    ASSERT_EQ(seen.size(), 1u);
    EXPECT_EQ(seen.at(2), (Runs{{10, 2}, {15, 4}}));
}

TEST_F(AroundLostFiles, LeavesAloneWhatIsYoungerOrOfTheSameAgeOrWrittenOver) {
    lose(1, "poster.png", 12, 3, png, 9);
    lose(2, "late.dat", 10, 6, "late", 9);
    EXPECT_TRUE(settled().empty());
    files[0].written = 20;
    EXPECT_TRUE(settled().empty());
    files[0].written = 5;
    bytes[static_cast<std::size_t>(grid.offset(12))] = 'x';
    EXPECT_TRUE(settled().empty());
    // Without a date nothing is older or younger.
    std::copy(png.begin(), png.end(), bytes.begin() + grid.offset(12));
    files[0].written = 0;
    EXPECT_TRUE(settled().empty());
}

TEST_F(AroundLostFiles, TakesATextAmongBinaryDataForItsOwn) {
    const std::string text(cluster_size, 'a');
    lose(1, "act one.txt", 12, 1, text, 5);
    lose(2, "late.dat", 10, 3, std::string(1, '\0'), 9);
    EXPECT_EQ(settled().at(2), (Runs{{10, 2}, {13, 1}}));
    lose(3, "late.txt", 10, 3, text, 9);
    EXPECT_FALSE(settled().count(3));
}

TEST_F(AroundLostFiles, AFileThatGoesOnAsNoTextIsNone) {
    lose(1, "act one.txt", 12, 2, std::string(cluster_size, 'a'), 5);
    lose(2, "late.dat", 10, 3, std::string(1, '\0'), 9);
    EXPECT_TRUE(settled().empty());
    lose(1, "act one.txt", 12, 2, std::string(2 * cluster_size, 'a'), 5);
    EXPECT_EQ(settled().at(2), (Runs{{10, 2}, {14, 1}}));
}

TEST_F(AroundLostFiles, StepsAroundWhatStepsAroundOthers) {
    lose(1, "a.png", 12, 1, png, 1);
    lose(2, "b.png", 11, 2, png, 2);  // 11, 13
    lose(3, "c.png", 10, 4, png, 3);  // 10, 14, 15, 16
    lose(4, "d.png", 20, 2, png, 4);  // meets nobody
    const auto seen = settled();
    EXPECT_EQ(seen.at(2), (Runs{{11, 1}, {13, 1}}));
    EXPECT_EQ(seen.at(3), (Runs{{10, 1}, {14, 3}}));
    EXPECT_FALSE(seen.count(1) || seen.count(4));
}

TEST_F(AroundLostFiles, EndsWhereTheVolumeDoes) {
    lose(1, "a.png", 95, 3, png, 1);
    lose(2, "b.png", 90, 50, png, 2);
    EXPECT_EQ(cluster_total(settled().at(2)), 5u + 4);
    // Every file in the way of every other costs no more than the budget.
    for (int i = 0; i < 90; ++i) lose(10 + i, "x.png", 2 + i, 80, png, 10 + i);
    EXPECT_FALSE(settled().empty());
}

}  // namespace undershelf::clusters
