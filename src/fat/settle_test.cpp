#include "fat/settle.hpp"

#include <gtest/gtest.h>

#include "fat/directory.hpp"
#include "fat/file_system.hpp"
#include "fat/traces.hpp"
#include "support/collector.hpp"
#include "support/fat_image.hpp"
#include "support/memory_device.hpp"
#include "support/traces.hpp"

namespace undershelf::fat {

namespace {

/// A card of the theatre's with three folders, whose head, FATs and root a format would take.
test::FatImage card() {
    test::FatImage image({.clusters = 3000, .sectors_per_cluster = 2});
    for (const auto& [cluster, name] : {std::pair{7u, "SCRIPTS    "}, {90u, "POSTERS    "}}) {
        image.chain({cluster});
        image.make_folder(cluster, 0);
        image.add(0, {name, {}, cluster, 0, ATTR_DIRECTORY});
    }
    image.chain({91});
    image.make_folder(91, 7);
    image.add(7, {"ACT1       ", {}, 91, 0, ATTR_DIRECTORY});
    image.put(7, "PLAY    TXT", u"", {100, 101}, test::sample_text("play", 1500));
    image.put(91, "CUES    TXT", u"", {300, 301, 302, 800, 801}, test::sample_text("cues", 5000));
    image.put(90, "HALL    TXT", u"", {120}, test::sample_text("hall", 500));
    return image;
}

ByteVector without(test::FatImage& image, std::uint64_t from, std::uint64_t to) {
    auto bytes = image.bytes();
    std::fill(bytes.begin() + static_cast<std::ptrdiff_t>(from),
              bytes.begin() + static_cast<std::ptrdiff_t>(to), 0);
    return bytes;
}

}  // namespace

TEST(FatSettle, FoldersAgreeOnWhereTheirClustersWere) {
    auto image = card();
    const auto& g = image.geometry();
    const auto bytes = without(image, 0, image.cluster_offset(3));
    const auto source = test::memory_source(bytes);
    const test::Traces traces(file_system(), bytes);
    const auto found = test::settle(file_system(), *source, traces);
    ASSERT_EQ(found.size(), 1u);
    const auto& v = found[0].volume;
    EXPECT_EQ(v.state, VolumeState::former);
    EXPECT_EQ(v.cluster_size, 1024u);
    EXPECT_EQ(v.grid_start, g.data_offset);
    EXPECT_EQ(v.support, 1);
    EXPECT_NE(v.votes.find("3 of 3 folders"), std::string::npos);
    const auto seen = test::read_settled(file_system(), *source, v, traces);
    const auto* play = seen.find("PLAY.TXT");
    ASSERT_TRUE(play);
    EXPECT_EQ(play->layout, Layout::assumed);
    EXPECT_EQ(play->origin, Origin::live);
    // ACT1 keeps its name, which the folder above it has; that one is lost with the root.
    const auto* act = seen.find("ACT1");
    ASSERT_TRUE(act);
    const auto* scripts = seen.find("folder-7");
    ASSERT_TRUE(scripts);
    EXPECT_EQ(act->parent, scripts->key);
    EXPECT_EQ(scripts->name_certainty, NameCertainty::made_up);
}

TEST(FatSettle, WhatIsLeftOfAFatMakesLayoutsKnown) {
    auto image = card();
    std::vector<Cluster> long_chain(400);
    for (std::size_t i = 0; i < long_chain.size(); ++i) long_chain[i] = static_cast<Cluster>(1000 + i);
    image.chain(long_chain);
    const auto& g = image.geometry();
    // The second FAT and the root are still there.
    const auto bytes = without(image, 0, g.fat_offset + g.fat_size);
    const auto source = test::memory_source(bytes);
    const test::Traces traces(file_system(), bytes);
    const auto found = test::settle(file_system(), *source, traces);
    ASSERT_EQ(found.size(), 1u);
    const auto seen = test::read_settled(file_system(), *source, found[0].volume, traces);
    const auto* cues = seen.find("CUES.TXT");
    ASSERT_TRUE(cues);
    EXPECT_EQ(cues->layout, Layout::known);
    EXPECT_EQ(cues->pieces.size(), 2u);
    EXPECT_TRUE(test::has_fact(*cues, Fact::former_chain));
    EXPECT_TRUE(seen.find("SCRIPTS"));
    EXPECT_FALSE(seen.find("folder-7"));
}

TEST(FatSettle, AChainGoesOnOverALostSectorOfAFatWhereItsLengthAgrees) {
    // 128 entries are in a sector: those of 1408 to 1535 are lost.
    for (const std::uint32_t clusters : {141u, 140u, 142u}) {
        auto image = card();
        std::vector<Cluster> chain(141);
        for (std::size_t i = 0; i < chain.size(); ++i) chain[i] = static_cast<Cluster>(1400 + i);
        image.chain(chain);
        image.add(7, {"LANTERN WAV", u"", 1400, clusters * 1024 - 100});
        const auto& g = image.geometry();
        const auto second = g.fat_offset + g.fat_size;
        const auto bytes = without(image, 0, second);
        const auto source = test::memory_source(bytes, RangeSet({{second + 11 * 512, 512}}));
        const test::Traces traces(file_system(), bytes);
        const auto found = test::settle(file_system(), *source, traces);
        ASSERT_EQ(found.size(), 1u);
        const auto seen = test::read_settled(file_system(), *source, found[0].volume, traces);
        const auto* lantern = seen.find("LANTERN.WAV");
        ASSERT_TRUE(lantern);
        EXPECT_EQ(lantern->layout == Layout::known, clusters == 141) << clusters;
    }
}

TEST(FatSettle, OldFoldersInAPresentGridAreTheFormerVolumes) {
    auto image = card();
    const auto& g = image.geometry();
    const auto source = test::memory_source(image.bytes());
    const test::Traces traces(file_system(), image.bytes());
    PresentLife life;
    life.volume.family = "FAT";
    life.volume.file_system = "FAT32";
    life.volume.size = image.bytes().size();
    life.volume.grid_start = g.data_offset;
    life.volume.cluster_size = g.cluster_size;
    // Everything is older than what the present volume names, or nothing is.
    const auto made = dos_time(0x5A64, 0x5000, 0, {})->ticks;
    life.oldest = made + Timestamp::per_second * 86400;
    auto found = test::settle(file_system(), *source, traces, {life});
    ASSERT_EQ(found.size(), 1u);
    EXPECT_NE(found[0].volume.found_by.find("older"), std::string::npos);
    life.oldest = made;
    EXPECT_TRUE(test::settle(file_system(), *source, traces, {life}).empty());
}

TEST(FatSettle, MakesNothingOfDisagreement) {
    test::Traces traces;
    for (std::uint64_t i = 0; i < 6; ++i)
        traces.all.push_back({folder_trace, 102'400 * i * i, 2 + i * 7919, 0, {}});
    const auto source = test::memory_source(ByteVector(1 << 20));
    EXPECT_TRUE(test::settle(file_system(), *source, traces).empty());
}

TEST(FatSettle, TwoCardsWithAsManyFoldersAreTwoVolumes) {
    auto image = card();
    const auto first = without(image, 0, image.cluster_offset(3));
    auto bytes = first;
    // The second one's clusters begin at a place that no multiple of the first one's leads to.
    bytes.resize(bytes.size() + 512);
    bytes.insert(bytes.end(), first.begin(), first.end());
    const auto source = test::memory_source(bytes);
    const test::Traces traces(file_system(), bytes);
    const auto found = test::settle(file_system(), *source, traces);
    ASSERT_EQ(found.size(), 2u);
    for (const auto& f : found) {
        EXPECT_NE(f.volume.votes.find("3 of 3 folders"), std::string::npos);
        const auto seen = test::read_settled(file_system(), *source, f.volume, traces);
        const auto* cues = seen.find("CUES.TXT");
        ASSERT_TRUE(cues);
        EXPECT_EQ(cues->pieces.at(0).source, f.volume.grid_start + 298 * 1024);
    }
}

TEST(FatSettle, AMillionFoldersOfOneNumberAgreeOnNothing) {
    test::Traces traces;
    for (std::uint64_t i = 0; i < 1'000'000; ++i) traces.all.push_back({folder_trace, 512 * i, 7, 0, {}});
    const auto source = test::memory_source(ByteVector(1 << 20));
    EXPECT_TRUE(test::settle(file_system(), *source, traces).empty());
}

TEST(FatSettle, AnOldHeadThatPointsBeyondTheSourceIsCutToIt) {
    auto image = card();
    const auto& g = image.geometry();
    auto bytes = without(image, g.fat_offset, image.cluster_offset(3));
    bytes.resize(image.cluster_offset(400));
    std::fill_n(bytes.begin() + 32, 3, 0xFF);  // BPB_TotSec32
    bytes[35] = 0x0F;
    const auto source = test::memory_source(bytes);
    const test::Traces traces(file_system(), bytes);
    const auto found = test::settle(file_system(), *source, traces, {}, {0});
    ASSERT_EQ(found.size(), 1u);
    EXPECT_EQ(found[0].volume.grid_start, g.data_offset);
    const auto seen = test::read_settled(file_system(), *source, found[0].volume, traces);
    ASSERT_TRUE(seen.find("CUES.TXT"));
    for (const auto& e : seen.entries) {
        for (const auto& piece : e.pieces) EXPECT_LE(piece.source_range().end(), bytes.size()) << e.name;
    }
}

TEST(FatSettle, ChainsThatRunInCirclesOrMeetAreNotBelieved) {
    auto image = card();
    std::vector<Cluster> long_chain(400);
    for (std::size_t i = 0; i < long_chain.size(); ++i) long_chain[i] = static_cast<Cluster>(1000 + i);
    image.chain(long_chain);
    image.set_fat(302, 300);  // CUES.TXT runs in a circle
    image.set_fat(100, 302);  // PLAY.TXT runs into it
    const auto& g = image.geometry();
    const auto bytes = without(image, 0, g.fat_offset + g.fat_size);
    const auto source = test::memory_source(bytes);
    const test::Traces traces(file_system(), bytes);
    const auto found = test::settle(file_system(), *source, traces);
    ASSERT_EQ(found.size(), 1u);
    const auto seen = test::read_settled(file_system(), *source, found[0].volume, traces);
    const auto* cues = seen.find("CUES.TXT");
    ASSERT_TRUE(cues);
    EXPECT_NE(cues->layout, Layout::known);
    EXPECT_FALSE(test::has_fact(*cues, Fact::former_chain));
}

TEST(FatSettle, TakesAGeometryThatIsTold) {
    auto image = card();
    const auto& g = image.geometry();
    const auto bytes = without(image, 0, image.cluster_offset(3));
    const auto source = test::memory_source(bytes);
    const test::Traces traces(file_system(), bytes);
    const RangeSet taken;
    const Settling settling{*source, traces, {}, {}, taken, {}};
    const auto by_votes = as_told({0, "FAT32", 1024u, {}}, settling).volume;
    EXPECT_EQ(by_votes.grid_start, g.data_offset);
    EXPECT_EQ(by_votes.found_by, "told");
    const auto by_place = as_told({0, "FAT32", 512u, 8192u}, settling).volume;
    EXPECT_EQ(by_place.grid_start, 8192u);
    EXPECT_EQ(by_place.file_system, "FAT32");
    EXPECT_EQ(as_told({0, "FAT16", 512u, 8192u}, settling).volume.file_system, "FAT16");
    EXPECT_THROW(as_told({0, "FAT32", {}, {}}, settling), Error);
    EXPECT_THROW(as_told({0, "FAT32", 65536u, {}}, settling), Error);
}

}  // namespace undershelf::fat
