#include "hfsplus/settle.hpp"

#include <gtest/gtest.h>

#include "hfsplus/file_system.hpp"
#include "hfsplus/own_use.hpp"
#include "hfsplus/traces.hpp"
#include "support/collector.hpp"
#include "support/disk_image.hpp"
#include "support/fat_image.hpp"
#include "support/hfsplus_image.hpp"
#include "support/memory_device.hpp"
#include "support/traces.hpp"

namespace undershelf::hfsplus {

namespace {

using namespace test::hfsplus;
using test::sample_text;

constexpr const char* picture = "\x89PNG\r\n\x1a\n and more of it";

Image volume() {
    Image image;
    std::vector<ByteVector> records{folder_record(20, 2, u"Posters"), thread_record(20, 2, u"Posters", true)};
    std::vector<ByteVector> files;
    for (std::uint32_t i = 0; i < 5; ++i) {
        image.fill(100 + 3 * i, picture + sample_text("poster", 2000));
        files.push_back(file_record(
            {30 + i, 20, u"poster " + std::u16string(1, u'a' + i) + u".png", {2000, {{100 + 3 * i, 1}}}}));
    }
    image.leaves(Image::catalogue, {records, files});
    return image;
}

ByteVector formatted(Image image) {
    std::fill_n(image.bytes.begin(), 4096, 0);
    std::fill_n(image.bytes.end() - 1024, 1024, 0);
    return image.bytes;
}

}  // namespace

TEST(HfsPlusTraces, FindsLeavesAndIndexNodesOfTheCatalogue) {
    const auto bytes = volume().bytes;
    const test::Traces traces(file_system(), bytes);
    std::vector<NodeTrace> nodes;
    for (const Trace& t : traces.all) nodes.push_back(*node_of(t));
    ASSERT_EQ(nodes.size(), 3u);
    EXPECT_EQ(std::count_if(nodes.begin(), nodes.end(), [](const NodeTrace& n) { return n.is_index; }), 1);
    EXPECT_EQ(nodes[0].size, node_size);
    EXPECT_EQ(nodes[0].made, when);
    EXPECT_EQ(trace_of(nodes[0]), traces.all[0]);
}

TEST(HfsPlusTraces, WhatIsOutOfOrderIsNoNode) {
    auto bytes = test::hfsplus::node_of(-1, {file_record({30, 20, u"b"}), file_record({31, 20, u"c"})});
    bytes[9] = 1;
    EXPECT_EQ(test::Traces(file_system(), Bytes(bytes)).count(node_trace), 1u);
    auto wrong = test::hfsplus::node_of(-1, {file_record({30, 21, u"b"}), file_record({31, 20, u"c"})});
    wrong[9] = 1;
    EXPECT_EQ(test::Traces(file_system(), Bytes(wrong)).count(node_trace), 0u);
    bytes[13] = 1;  // reserved
    EXPECT_EQ(test::Traces(file_system(), Bytes(bytes)).count(node_trace), 0u);
}

TEST(HfsPlusSettle, NodesAndContentsAgreeOnAGeometry) {
    const auto bytes = formatted(volume());
    const auto source = test::memory_source(bytes);
    const test::Traces traces(file_system(), bytes);
    const auto found = test::settle(file_system(), *source, traces, test::something_over(bytes));
    ASSERT_EQ(found.size(), 1u);
    const auto& v = found[0].volume;
    EXPECT_EQ(v.state, VolumeState::former);
    EXPECT_EQ(v.cluster_size, block);
    const auto seen = test::read_settled(file_system(), *source, v, traces);
    const auto* poster = seen.find("poster c.png");
    ASSERT_TRUE(poster);
    EXPECT_EQ(poster->origin, Origin::live);
    EXPECT_EQ(poster->layout, Layout::known);
    EXPECT_EQ(poster->parent, seen.find("Posters")->key);
    EXPECT_EQ(test::content_of(bytes, *poster).substr(0, 8), std::string(picture).substr(0, 8));
}

TEST(HfsPlusSettle, AThreadNamesAFolderThatLostItsRecord) {
    auto image = volume();
    image.leaves(Image::catalogue, {{thread_record(20, 2, u"Posters", true)},
                                    {file_record({30, 20, u"poster a.png", {2000, {{100, 1}}}}),
                                     file_record({31, 20, u"poster b.png", {2000, {{103, 1}}}}),
                                     file_record({32, 20, u"poster c.png", {2000, {{106, 1}}}})}});
    const auto bytes = formatted(std::move(image));
    const auto source = test::memory_source(bytes);
    const test::Traces traces(file_system(), bytes);
    const auto found = test::settle(file_system(), *source, traces, test::something_over(bytes));
    ASSERT_EQ(found.size(), 1u);
    const auto seen = test::read_settled(file_system(), *source, found[0].volume, traces);
    const auto* folder = seen.find("Posters");
    ASSERT_TRUE(folder);
    EXPECT_TRUE(folder->is_dir);
    EXPECT_EQ(seen.find("poster b.png")->parent, folder->key);
}

TEST(HfsPlusSettle, APresentVolumesOwnNodesMakeNoFormerOne) {
    const auto bytes = volume().bytes;
    const auto source = test::memory_source(bytes);
    const test::Traces traces(file_system(), bytes);
    PresentLife life;
    life.volume = file_system().recognise(*source, 0)->volume;
    // All of its nodes are in use, and all of its items are as old as itself.
    const auto use = own_use(*source, life.volume);
    for (const auto& t : traces.all) EXPECT_TRUE(use.contains(t.offset));
    EXPECT_TRUE(test::settle(file_system(), *source, traces, {life}).empty());
}

}  // namespace undershelf::hfsplus
