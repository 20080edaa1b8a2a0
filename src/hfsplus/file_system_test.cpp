#include "hfsplus/file_system.hpp"

#include <gtest/gtest.h>

#include <random>

#include "support/heads.hpp"
#include "support/memory_device.hpp"

namespace undershelf::hfsplus {

TEST(HfsPlus, DescribesAVolume) {
    const auto source = test::memory_source(test::hfsplus_head());
    const auto r = file_system().recognise(*source, 0);
    ASSERT_TRUE(r);
    EXPECT_EQ(r->volume.file_system, "HFS+");
    EXPECT_EQ(r->volume.support, 1);
    EXPECT_EQ(r->volume.label, "CUES");
    EXPECT_EQ(r->volume.serial, "");
    EXPECT_EQ(r->volume.size, 4u << 20);
    EXPECT_EQ(file_system().space(*source, r->volume)->free, 1000u * 4096);
}

TEST(HfsPlus, TellsHfsxAndItsUuid) {
    auto bytes = test::hfsplus_head();
    bytes[1024 + 1] = 'X';
    bytes[1024 + 3] = 5;
    bytes[1024 + 80 + 31] = 1;
    const auto r = file_system().recognise(*test::memory_source(bytes), 0);
    ASSERT_TRUE(r);
    EXPECT_EQ(r->volume.file_system, "HFSX");
    EXPECT_EQ(r->volume.serial.size(), 36u);
    EXPECT_EQ(r->volume.serial[14], '3');
}

TEST(HfsPlus, IsFoundByItsAlternateHeader) {
    auto bytes = test::hfsplus_head();
    std::fill_n(bytes.begin() + 1024, 512, 0);
    const auto source = test::memory_source(bytes);
    EXPECT_FALSE(file_system().recognise(*source, 0));
    const auto found =
        file_system().recognise_copy(*source, file_system().copy_places({0, bytes.size()}, 512).at(0));
    ASSERT_EQ(found.size(), 1u);
    EXPECT_EQ(found[0].volume.offset, 0u);
    EXPECT_EQ(found[0].volume.label, "CUES");
}

TEST(HfsPlus, SurvivesAnyHead) {
    std::mt19937 random(9);
    const auto sound = test::hfsplus_head();
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

}  // namespace undershelf::hfsplus
