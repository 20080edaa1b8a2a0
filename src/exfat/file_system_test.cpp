#include "exfat/file_system.hpp"

#include <gtest/gtest.h>

#include <random>

#include "support/heads.hpp"
#include "support/memory_device.hpp"

namespace undershelf::exfat {

TEST(Exfat, DescribesAVolume) {
    const auto source = test::memory_source(test::exfat_head());
    const auto r = file_system().recognise(*source, 0);
    ASSERT_TRUE(r);
    EXPECT_EQ(r->volume.support, 1);
    EXPECT_EQ(r->volume.label, "CUES");
    EXPECT_EQ(r->volume.serial, "1A2B-3C4D");
    EXPECT_EQ(r->volume.cluster_size, 4096u);
    EXPECT_EQ(r->volume.size, 4u << 20);
    EXPECT_TRUE(r->volume.readable);
    EXPECT_EQ(file_system().space(*source, r->volume)->used, 4u * 4096);
}

TEST(Exfat, IsFoundByItsSecondBootRegion) {
    auto bytes = test::exfat_head();
    std::fill_n(bytes.begin(), 512, 0);
    const auto source = test::memory_source(bytes);
    EXPECT_FALSE(file_system().recognise(*source, 0));
    const auto places = file_system().copy_places({0, bytes.size()}, 512);
    const auto found = file_system().recognise_copy(*source, places.at(0));
    ASSERT_EQ(found.size(), 1u);
    EXPECT_EQ(found[0].volume.offset, 0u);
    EXPECT_EQ(found[0].volume.label, "CUES");
}

TEST(Exfat, SurvivesAnyHead) {
    std::mt19937 random(9);
    const auto sound = test::exfat_head();
    for (int round = 0; round < 300; ++round) {
        auto bytes = sound;
        for (int i = 0; i < 12; ++i)
            bytes[(random() % 4 ? 0 : 1024) + random() % 512] = static_cast<std::uint8_t>(random());
        const auto source = test::memory_source(std::move(bytes));
        if (const auto r = file_system().recognise(*source, 0)) file_system().space(*source, r->volume);
        for (const auto at : file_system().copy_places({0, 4 << 20}, 512))
            file_system().recognise_copy(*source, at);
    }
}

}  // namespace undershelf::exfat
