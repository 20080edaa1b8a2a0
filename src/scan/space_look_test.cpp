#include "scan/space_look.hpp"

#include <gtest/gtest.h>

#include <filesystem>
#include <fstream>

#include "support/memory_content.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf {

namespace {

constexpr std::uint64_t mib = 1 << 20;

class Looked : public ::testing::Test {
  protected:
    std::optional<SpaceLook> look(const ByteVector& bytes, std::vector<ByteRange> claimed = {}) {
        const auto source = open_source(folder.write("card.img", bytes), {});
        Progress progress;
        return look_at_space(*source, FreeSpace(RangeSet(std::move(claimed)), bytes.size()), Grids({}),
                             progress);
    }
    static void put(ByteVector& to, std::uint64_t at, const ByteVector& content) {
        std::copy(content.begin(), content.end(), to.begin() + static_cast<std::ptrdiff_t>(at));
    }
    test::TemporaryFolder folder;
};

}  // namespace

TEST_F(Looked, ASmallSourceIsLookedAtWhole) {
    ByteVector bytes(2 * mib, 0xFF);
    put(bytes, mib, test::png_file());
    put(bytes, mib + 512 * 300, test::flac_file());
    const auto seen = look(bytes);
    ASSERT_TRUE(seen);
    EXPECT_EQ(seen->bytes, 2 * mib);
    EXPECT_TRUE(seen->all());
    EXPECT_EQ(seen->starts, 2u);
    EXPECT_EQ(seen->traces, 0u);
    EXPECT_GT(seen->data, test::png_file().size() / 2);
    EXPECT_LT(seen->data, mib / 2);
}

TEST_F(Looked, WhatIsClaimedDoesNotCount) {
    ByteVector bytes(2 * mib, 0xFF);
    put(bytes, mib, test::png_file());
    const auto seen = look(bytes, {{mib, 512}});
    EXPECT_EQ(seen->bytes, 2 * mib - 512);
    EXPECT_EQ(seen->starts, 0u);
    EXPECT_EQ(look(bytes, {{0, 2 * mib}})->bytes, 0u);
}

TEST_F(Looked, OfALargeSourceSomePlacesAre) {
    const auto path = folder.at("disk.img");
    folder.write("disk.img", ByteVector(512, 1));
    std::filesystem::resize_file(path, 300 * mib);
    // Holes are no space to look at; so it is filled.
    {
        std::ofstream out(path, std::ios::binary);
        const std::string block(mib, 'x');
        for (int i = 0; i < 300; ++i) out << block;
    }
    const auto source = open_source(path, {});
    Progress progress;
    const auto seen = look_at_space(*source, FreeSpace(RangeSet(), 300 * mib), Grids({}), progress);
    ASSERT_TRUE(seen);
    EXPECT_EQ(seen->bytes, 300 * mib);
    EXPECT_LE(seen->looked, 33 * mib);
    EXPECT_GE(seen->looked, 31 * mib);
    EXPECT_FALSE(seen->all());
    EXPECT_EQ(seen->data, 0u) << "one byte throughout";
}

TEST_F(Looked, AtNothingOnceSomebodyWantsToStop) {
    struct Stopped : Progress {
        bool stopped() const override { return true; }
    } progress;
    const auto source = open_source(folder.write("card.img", ByteVector(mib, 7)), {});
    EXPECT_FALSE(look_at_space(*source, FreeSpace(RangeSet(), mib), Grids({}), progress));
}

}  // namespace undershelf
