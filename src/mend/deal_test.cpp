#include "mend/deal.hpp"

#include <gtest/gtest.h>

#include <numeric>

#include "support/mended_disk.hpp"

namespace undershelf {

namespace {

using test::clusters_of;
using test::MendedDisk;

constexpr auto sector = MendedDisk::step;

/// Of so many clusters, and somewhat more.
ByteVector zipped(std::uint32_t seed, std::size_t clusters) {
    auto random = test::random_numbers(seed);
    ByteVector noise(clusters * sector);
    for (auto& b : noise) b = static_cast<std::uint8_t>(random());
    return test::zip_file({{"act " + std::to_string(seed) + ".bin", noise}});
}

/// Writes files in turns from a cluster on, each in runs of its own, and returns which clusters each got.
std::vector<std::vector<std::size_t>> write_in_turns(MendedDisk& disk,
                                                     const std::vector<ByteVector>& contents,
                                                     const std::vector<std::size_t>& runs, std::size_t at) {
    std::vector<std::vector<std::size_t>> out(contents.size());
    for (bool any = true; any;) {
        any = false;
        for (std::size_t i = 0; i < contents.size(); ++i) {
            for (std::size_t n = 0; n < runs[i] && out[i].size() < clusters_of(contents[i]); ++n, any = true)
                out[i].push_back(at++);
        }
    }
    for (std::size_t i = 0; i < contents.size(); ++i) disk.put(contents[i], out[i]);
    return out;
}

std::vector<DealtFile> files_of(const std::vector<ByteVector>& contents,
                                const std::vector<std::vector<std::size_t>>& clusters) {
    std::vector<DealtFile> out;
    for (std::size_t i = 0; i < contents.size(); ++i)
        out.push_back(
            {clusters[i].front() * sector, contents[i].size(),
             format_of_start(Bytes(contents[i]).first(std::min<std::size_t>(4096, contents[i].size())))});
    return out;
}

std::vector<std::vector<std::size_t>> clusters_in(const std::optional<DealtHand>& hand) {
    std::vector<std::vector<std::size_t>> out;
    if (hand)
        for (const auto& content : hand->contents) out.push_back(test::clusters_in(content.ranges));
    return out;
}

}  // namespace

TEST(Deal, FindsRunsOfEachLength) {
    const std::vector<ByteVector> contents{zipped(1, 20), zipped(2, 11), zipped(3, 15)};
    for (const auto& runs :
         std::vector<std::vector<std::size_t>>{{1, 1, 1}, {4, 4, 4}, {1, 3, 1}, {2, 5, 3}}) {
        MendedDisk disk(200);
        const auto clusters = write_in_turns(disk, contents, runs, 7);
        const auto files = files_of(contents, clusters);
        const auto groups = disk.groups(files);
        ASSERT_EQ(groups.size(), 1u);
        EXPECT_EQ(groups[0].size(), 3u);
        const auto hand = disk.dealt(files);
        EXPECT_EQ(clusters_in(hand), clusters);
        EXPECT_EQ(hand->proven, 3u);
    }
}

TEST(Deal, FindsTwoPartsEach) {
    const std::vector<ByteVector> contents{zipped(1, 20), zipped(2, 11)};
    MendedDisk disk(200);
    std::vector<std::vector<std::size_t>> clusters(2);
    std::size_t at = 5;
    const auto write = [&](std::size_t who, std::size_t to) {
        while (clusters[who].size() < to) clusters[who].push_back(at++);
    };
    write(0, 13);
    write(1, 4);
    write(0, clusters_of(contents[0]));
    write(1, clusters_of(contents[1]));
    for (std::size_t i = 0; i < 2; ++i) disk.put(contents[i], clusters[i]);
    EXPECT_EQ(clusters_in(disk.dealt(files_of(contents, clusters))), clusters);
}

TEST(Deal, StepsOverWhatSomebodyHas) {
    const std::vector<ByteVector> contents{zipped(1, 9), zipped(2, 9)};
    MendedDisk disk(100);
    const RangeSet taken({{9 * sector, 3 * sector}});
    // 5+2 7+2 [9 to 11] 12+2 14+2 ...
    std::vector<std::vector<std::size_t>> clusters(2);
    for (std::size_t at = 5, n = 0; clusters[1].size() < clusters_of(contents[1]); ++at) {
        if (at >= 9 && at < 12) continue;
        clusters[n++ / 2 % 2].push_back(at);
    }
    for (std::size_t i = 0; i < 2; ++i) disk.put(contents[i], clusters[i]);
    EXPECT_EQ(clusters_in(disk.dealt(files_of(contents, clusters), true, taken)), clusters);
}

TEST(Deal, OneThatHoldsProvesThoseThatNothingChecks) {
    std::vector<ByteVector> contents{zipped(1, 12), ByteVector(9 * sector + 40, 0xA7)};
    MendedDisk disk(100);
    const auto clusters = write_in_turns(disk, contents, {3, 3}, 20);
    auto files = files_of(contents, clusters);
    files[1].format = nullptr;
    const auto hand = disk.dealt(files, false);
    EXPECT_EQ(clusters_in(hand), clusters);
    EXPECT_EQ(hand->proven, 1u);
    EXPECT_FALSE(hand->contents[1].check);
    EXPECT_FALSE(hand->contents[1].holds());
}

TEST(Deal, WithoutAnyCheckTheUsualWayIsAGuess) {
    std::vector<ByteVector> contents{ByteVector(9 * sector, 0xA7), ByteVector(7 * sector, 0xA9)};
    MendedDisk disk(100);
    const auto clusters = write_in_turns(disk, contents, {2, 2}, 20);
    auto files = files_of(contents, clusters);
    for (auto& file : files) file.format = nullptr;
    const auto hand = disk.dealt(files);
    EXPECT_EQ(clusters_in(hand), clusters);
    EXPECT_EQ(hand->telling, 0u);
    // Written at different times they were not open at once.
    EXPECT_FALSE(disk.dealt(files, false));
}

TEST(Deal, ABrokenOneLeavesTheOthersWhatIsProven) {
    const std::vector<ByteVector> contents{zipped(1, 12), zipped(2, 12)};
    MendedDisk disk(100);
    const auto clusters = write_in_turns(disk, contents, {3, 3}, 20);
    disk.put(ByteVector(sector, 0x55), {clusters[1][7]});
    const auto hand = disk.dealt(files_of(contents, clusters));
    ASSERT_TRUE(hand);
    EXPECT_EQ(clusters_in(hand), (std::vector<std::vector<std::size_t>>{clusters[0], {}}));
}

TEST(Deal, FilesThatTheSpaceDoesNotSufficeForAreLeftOut) {
    MendedDisk disk(30);
    std::vector<DealtFile> files{{2 * sector, 4 * sector, nullptr, false},
                                 {25 * sector, 9 * sector, nullptr, false}};
    EXPECT_EQ(disk.groups(files), (std::vector<std::vector<std::size_t>>{{0}}));
    // What a record claims costs no more than what is there.
    files[0].size = ~0ull - 5;
    EXPECT_TRUE(disk.groups(files).empty());
    // Nine that begin in each other are not tried.
    files.clear();
    for (std::uint64_t i = 0; i < 9; ++i) files.push_back({(2 + i) * sector, 2 * sector, nullptr, false});
    for (const auto& group : disk.groups(files)) EXPECT_LE(group.size(), 8u);
}

TEST(Deal, StopsWithinItsLimits) {
    const std::vector<ByteVector> contents{zipped(1, 40), zipped(2, 30)};
    MendedDisk disk(200);
    const auto clusters = write_in_turns(disk, contents, {7, 13}, 20);
    MendLimits limits;
    limits.trials = 3;
    EXPECT_FALSE(disk.dealt(files_of(contents, clusters), true, {}, limits));
    EXPECT_EQ(disk.cost.trials, 3u);
    limits = {};
    limits.clusters = 3;
    EXPECT_FALSE(disk.dealt(files_of(contents, clusters), true, {}, limits));
    EXPECT_TRUE(disk.dealt(files_of(contents, clusters)));
}

}  // namespace undershelf
