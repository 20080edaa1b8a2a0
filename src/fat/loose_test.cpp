#include "fat/loose.hpp"

#include <gtest/gtest.h>

#include "fat/file_system.hpp"
#include "fat/settle.hpp"
#include "support/collector.hpp"
#include "support/fat_image.hpp"
#include "support/memory_device.hpp"
#include "support/traces.hpp"

namespace undershelf::fat {

namespace {

/// Folders of a card, moved to places that no grid explains; nothing else is left.
ByteVector scattered() {
    test::FatImage image({.clusters = 3000, .sectors_per_cluster = 2});
    image.make_folder(7, 0);
    image.make_folder(91, 7);
    image.make_folder(90, 7);
    image.add(7, {"ACT1       ", {}, 91, 0, ATTR_DIRECTORY});
    image.put(7, "PLAY    TXT", u"The clockwork owl.txt", {100, 101}, test::sample_text("play", 1500));
    image.put(91, "CUES    TXT", u"", {300}, test::sample_text("cues", 500));
    image.put(91, "NOTHING TXT", u"", {}, "");
    image.erase(image.put(91, "DRAFT   TXT", u"", {320}, test::sample_text("draft", 700)));
    image.put(90, "HALL    TXT", u"", {120}, test::sample_text("hall", 500));
    ByteVector out(1 << 20);
    for (const auto& [cluster, place] : {std::pair{7u, 300'032}, {91u, 40'960}, {90u, 700'416}}) {
        std::copy_n(image.bytes().begin() + static_cast<std::ptrdiff_t>(image.cluster_offset(cluster)), 1024,
                    out.begin() + place);
    }
    return out;
}

}  // namespace

TEST(LooseFolders, TellNamesWhereNothingTellsTheGeometry) {
    const auto bytes = scattered();
    const auto source = test::memory_source(bytes);
    const test::Traces traces(file_system(), bytes);
    const auto found = test::settle(file_system(), *source, traces);
    ASSERT_EQ(found.size(), 1u);
    const auto& v = found[0].volume;
    EXPECT_EQ(v.cluster_size, 0u);
    EXPECT_NE(v.votes.find("3 folders"), std::string::npos);
    const auto seen = test::read_settled(file_system(), *source, v, traces);
    const auto* scripts = seen.find("folder-7");
    const auto* act = seen.find("ACT1");
    const auto* hall = seen.find("HALL.TXT");
    const auto* cues = seen.find("CUES.TXT");
    const auto* play = seen.find("The clockwork owl.txt");
    const auto* posters = seen.find("folder-90");
    ASSERT_TRUE(scripts && act && hall && cues && play && posters);
    EXPECT_EQ(act->parent, scripts->key);
    EXPECT_EQ(posters->parent, scripts->key);
    EXPECT_EQ(hall->parent, posters->key);
    EXPECT_EQ(cues->parent, act->key);
    EXPECT_EQ(cues->layout, Layout::none);
    EXPECT_EQ(cues->size, 500u);
    EXPECT_TRUE(cues->modified);
    EXPECT_EQ(seen.find("NOTHING.TXT")->layout, Layout::known);
    EXPECT_EQ(seen.find("_RAFT.TXT")->origin, Origin::deleted);
    EXPECT_EQ(seen.entries.size(), 8u);
}

TEST(LooseFolders, TwoOfOneNumberAreToldApartByDate) {
    auto bytes = scattered();
    // A younger folder of the number that ACT1 has, elsewhere.
    std::copy_n(bytes.begin() + 40'960, 1024, bytes.begin() + 900'096);
    bytes[900'096 + 16] ^= 1;  // DIR_CrtDate of '.'
    bytes[900'096 + 64] = 'X';
    const auto source = test::memory_source(bytes);
    const test::Traces traces(file_system(), bytes);
    const auto found = test::settle(file_system(), *source, traces);
    ASSERT_EQ(found.size(), 1u);
    const auto seen = test::read_settled(file_system(), *source, found[0].volume, traces);
    const auto *act = seen.find("ACT1"), *cues = seen.find("CUES.TXT"), *younger = seen.find("folder-91");
    ASSERT_TRUE(act && cues && younger);
    EXPECT_EQ(cues->parent, act->key);
    ASSERT_TRUE(seen.find("XUES.TXT"));
    EXPECT_EQ(seen.find("XUES.TXT")->parent, younger->key);
}

TEST(LooseFolders, EmptyOnesAreNothingToList) {
    test::FatImage image({.clusters = 200});
    image.make_folder(7, 0);
    ByteVector bytes(1 << 20);
    std::copy_n(image.bytes().begin() + static_cast<std::ptrdiff_t>(image.cluster_offset(7)), 512,
                bytes.begin() + 300'032);
    const auto source = test::memory_source(bytes);
    EXPECT_TRUE(test::settle(file_system(), *source, test::Traces(file_system(), bytes)).empty());
}

}  // namespace undershelf::fat
