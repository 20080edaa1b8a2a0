#include "ntfs/file_system.hpp"

#include <gtest/gtest.h>

#include <random>

#include "ntfs/traces.hpp"
#include "support/disk_image.hpp"
#include "support/heads.hpp"
#include "support/memory_device.hpp"
#include "support/ntfs_image.hpp"
#include "support/traces.hpp"

namespace undershelf::ntfs {

TEST(Ntfs, DescribesAVolume) {
    const auto source = test::memory_source(test::ntfs_head());
    const auto r = file_system().recognise(*source, 0);
    ASSERT_TRUE(r);
    EXPECT_EQ(r->volume.support, 1);
    EXPECT_EQ(r->volume.label, "CUES");
    EXPECT_EQ(r->volume.serial, "0123456789ABCDEF");
    EXPECT_EQ(r->volume.cluster_size, 4096u);
    EXPECT_EQ(r->volume.size, 4u << 20);
}

TEST(Ntfs, UnderstandsLargeClusters) {
    auto bytes = test::ntfs_head();
    bytes[13] = 0xF9;  // 2 to the power of 7 sectors
    bytes[56] = 10;
    bytes[57] = 0;
    const auto r = file_system().recognise(*test::memory_source(bytes), 0);
    ASSERT_TRUE(r);
    EXPECT_EQ(r->volume.cluster_size, 65536u);
    bytes[13] = 0xF0;  // 32 MiB: no driver takes that
    EXPECT_FALSE(file_system().recognise(*test::memory_source(bytes), 0));
}

TEST(Ntfs, IsFoundByTheCopyOfItsBootSector) {
    auto bytes = test::ntfs_head();
    std::fill_n(bytes.begin(), 512, 0);
    const auto source = test::memory_source(bytes);
    EXPECT_FALSE(file_system().recognise(*source, 0));
    const auto found =
        file_system().recognise_copy(*source, file_system().copy_places({0, bytes.size()}, 512).at(0));
    ASSERT_EQ(found.size(), 1u);
    EXPECT_EQ(found[0].volume.offset, 0u);
}

TEST(Ntfs, SurvivesAnyHead) {
    std::mt19937 random(9);
    const auto sound = test::ntfs_head();
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

TEST(Ntfs, TracesOfOlderRecordsHaveNoNumber) {
    test::Traces found;
    auto bytes = test::ntfs::plain_record(31, 7, 1, {});
    auto older = test::ntfs::plain_record(32, 8, 1, {});
    test::put_number(older, 4, 0x2A, 2);
    bytes.insert(bytes.end(), older.begin(), older.end());
    find_traces({bytes, 0, bytes.size()}, found);
    ASSERT_EQ(found.all.size(), 2u);
    EXPECT_EQ(found.all[0].a, 31u);
    EXPECT_EQ(found.all[1].a, no_own_number);
    EXPECT_EQ(found.all[1].b & 0xFFFF, 8u);
}

}  // namespace undershelf::ntfs
