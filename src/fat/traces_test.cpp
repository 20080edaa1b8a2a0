#include "fat/traces.hpp"

#include <gtest/gtest.h>

#include "clusters/fat_stretch.hpp"
#include "fat/file_system.hpp"
#include "support/fat_image.hpp"
#include "support/traces.hpp"

namespace undershelf::fat {

TEST(FatTraces, FindsFolderClustersWithTheirNumbers) {
    test::FatImage image({.clusters = 3000, .sectors_per_cluster = 2});
    for (Cluster c : {7u, 90u, 91u}) image.make_folder(c, c == 91 ? 90 : 0);
    const test::Traces found(file_system(), image.bytes());
    ASSERT_EQ(found.count(folder_trace), 3u);
    EXPECT_EQ(found.all[2].offset, image.cluster_offset(91));
    EXPECT_EQ(found.all[2].a, 91u);
    EXPECT_EQ(found.all[2].b, 90u);
}

TEST(FatTraces, FindsSlotsThatBeginNoFolder) {
    test::FatImage image;
    image.make_folder(10, 0);
    image.chain({10, 12});
    for (int i = 0; i < 20; ++i)
        image.add(10, {"CUE" + std::to_string(100 + i) + "  TXT",
                       {},
                       50,
                       9,
                       i % 2 ? ATTR_DIRECTORY : std::uint8_t{0x20}});
    const test::Traces found(file_system(), image.bytes());
    ASSERT_EQ(found.count(slots_trace), 0u);  // a folder of a name and a size is none
}

TEST(FatTraces, ReportsOnlyWhatStartsInTheOwnedPart) {
    test::FatImage image;
    image.make_folder(10, 0);
    image.make_folder(20, 0);
    const auto split = image.cluster_offset(15);
    test::Traces first, second;
    find_traces({image.bytes(), 0, split}, first);
    find_traces({Bytes(image.bytes()).subspan(split), split, image.bytes().size() - split}, second);
    EXPECT_EQ(first.count(folder_trace), 1u);
    EXPECT_EQ(second.count(folder_trace), 1u);
}

TEST(FatTraces, FindsStretchesOfFatsByWhatTheirEntriesSay) {
    for (const auto width : {Width::fat12, Width::fat16, Width::fat32}) {
        test::FatImage image({.width = width, .clusters = width == Width::fat12 ? 2000u : 5000u});
        std::vector<Cluster> clusters(900);
        for (std::size_t i = 0; i < clusters.size(); ++i) clusters[i] = static_cast<Cluster>(400 + i);
        image.chain(clusters);
        const test::Traces found(file_system(), image.bytes());
        const auto& g = image.geometry();
        std::vector<std::uint64_t> tables;
        found.visit_all(table_trace, [&](const Trace& t) {
            const auto stretch = clusters::stretch_of(t);
            EXPECT_EQ(stretch.bits, static_cast<unsigned>(width));
            if (tables.empty() || tables.back() != stretch.table) tables.push_back(stretch.table);
            return true;
        });
        EXPECT_EQ(tables, (std::vector<std::uint64_t>{g.fat_offset, g.fat_offset + g.fat_size}))
            << static_cast<int>(width);
    }
}

}  // namespace undershelf::fat
