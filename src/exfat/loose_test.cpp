#include "exfat/loose.hpp"

#include <gtest/gtest.h>

#include "exfat/file_system.hpp"
#include "exfat/settle.hpp"
#include "support/collector.hpp"
#include "support/exfat_image.hpp"
#include "support/memory_device.hpp"
#include "support/traces.hpp"

namespace undershelf::exfat {

namespace {

using namespace test::exfat;

/// Two folders of a card at places that no grid explains; nothing else is left.
ByteVector scattered() {
    Image image;
    image.add(20, {.name = u"cues.csv", .start = 100, .size = 900});
    image.add(20, {.name = u"acts", .start = 40, .size = cluster_size, .folder = true});
    image.add(40, {.name = u"The clockwork owl.txt", .start = 101, .size = 900});
    ByteVector out(1 << 20);
    for (const auto& [cluster, place] : {std::pair{20u, 300'032}, {40u, 40'960}}) {
        std::copy_n(image.bytes.begin() + static_cast<std::ptrdiff_t>(image.place(cluster)), cluster_size,
                    out.begin() + place);
    }
    return out;
}

}  // namespace

TEST(LooseSets, TellNamesWhereNothingTellsTheGeometry) {
    const auto bytes = scattered();
    const auto source = test::memory_source(bytes);
    const test::Traces traces(file_system(), bytes);
    const auto found = test::settle(file_system(), *source, traces);
    ASSERT_EQ(found.size(), 1u);
    const auto& v = found[0].volume;
    EXPECT_EQ(v.cluster_size, 0u);
    EXPECT_NE(v.votes.find("3 entry sets"), std::string::npos);
    const auto seen = test::read_settled(file_system(), *source, v, traces);
    const auto *cues = seen.find("cues.csv"), *owl = seen.find("The clockwork owl.txt");
    const auto *first = seen.find("folder-at-586"), *second = seen.find("folder-at-80");
    ASSERT_TRUE(cues && owl && first && second);
    EXPECT_EQ(cues->parent, first->key);
    EXPECT_EQ(cues->size, 900u);
    EXPECT_EQ(cues->layout, Layout::none);
    EXPECT_EQ(owl->parent, second->key);
    EXPECT_TRUE(seen.find("acts")->is_dir);
}

TEST(LooseSets, WhatAPresentVolumeDeletedIsItsOwn) {
    const auto bytes = scattered();
    const auto source = test::memory_source(bytes);
    const test::Traces traces(file_system(), bytes);
    PresentLife life;
    life.volume.family = life.volume.file_system = "exFAT";
    life.volume.size = bytes.size();
    life.oldest = 0;
    EXPECT_TRUE(test::settle(file_system(), *source, traces, {life}).empty());
}

}  // namespace undershelf::exfat
