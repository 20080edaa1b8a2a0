#include "fat/traces.hpp"

#include <gtest/gtest.h>

#include "support/fat_image.hpp"
#include "support/memory_device.hpp"

namespace undershelf::fat {

namespace {
struct Traces final : TraceSink {
    std::vector<Trace> all;
    void trace(const Trace& t) override { all.push_back(t); }
};
}  // namespace

TEST(FatTraces, FindsFolderClustersAndTheirGeometry) {
    test::FatImage image({.clusters = 3000, .sectors_per_cluster = 2});
    for (Cluster c : {7u, 90u, 91u, 400u, 1777u}) image.make_folder(c, c == 91 ? 90 : 0);
    Traces found;
    find_traces({image.bytes(), 0, image.bytes().size()}, found);
    ASSERT_EQ(found.all.size(), 5u);
    EXPECT_EQ(found.all[2].a, 91u);
    EXPECT_EQ(found.all[2].b, 90u);
    const auto source = test::memory_source(image.bytes());
    const auto volumes = settle(*source, found.all);
    ASSERT_EQ(volumes.size(), 1u);
    EXPECT_EQ(volumes[0].volume.cluster_size, 1024u);
    EXPECT_EQ(volumes[0].volume.offset, image.geometry().data_offset);
    EXPECT_EQ(volumes[0].volume.support, 1.0);
}

TEST(FatTraces, ReportsOnlyWhatStartsInTheOwnedPart) {
    test::FatImage image;
    image.make_folder(10, 0);
    image.make_folder(20, 0);
    const auto split = image.cluster_offset(15);
    Traces first, second;
    find_traces({image.bytes(), 0, split}, first);
    find_traces({Bytes(image.bytes()).subspan(split), split, image.bytes().size() - split}, second);
    EXPECT_EQ(first.all.size(), 1u);
    EXPECT_EQ(second.all.size(), 1u);
}

TEST(FatTraces, MakesNothingOfDisagreement) {
    std::vector<Trace> traces;
    for (std::uint64_t i = 0; i < 6; ++i) traces.push_back({folder_trace, 100'000 * i * i, 2 + i * 7919, 0});
    const auto source = test::memory_source(ByteVector(1024));
    EXPECT_TRUE(settle(*source, traces).empty());
}

}  // namespace undershelf::fat
