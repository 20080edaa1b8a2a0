#include "capture/copier.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "base/error.hpp"
#include "capture/capturing_device.hpp"
#include "support/asked_device.hpp"
#include "support/temporary_folder.hpp"
#include "support/test_image.hpp"

namespace undershelf {

namespace {

using ::testing::HasSubstr;
using State = CoverageState;

constexpr std::uint64_t size = 4 << 20;

class Copying : public ::testing::Test {
  protected:
    explicit Copying(Simulation simulation = {.places = {{{(1 << 20) + 4096, 512}}}})
        : device(content, std::move(simulation)) {}

    const ByteVector content = [] {
        auto bytes = test::random_bytes(size);
        std::fill_n(bytes.begin() + (2 << 20), 1 << 20, std::uint8_t{0});
        return bytes;
    }();
    test::AskedDevice device;
    test::TemporaryFolder folder;
    test::TestImage image{folder.at("card.img"), size};
    BlockHashes hashes{image, test::replaced(folder.at("blocks.csv"))};
    ImageWriter writer{image, CoverageRecord(size), test::replaced(folder.at("coverage.csv")), hashes};
    Progress progress;
    Copier copier{device, Coverage(size), writer, {}, progress};
};

}  // namespace

TEST_F(Copying, KeepsWhatCameBeforeTheFailure) {
    EXPECT_FALSE(copier.read({1 << 20, 1 << 20}, State::leapt));
    EXPECT_TRUE(copier.coverage().holds({1 << 20, 4096}));
    EXPECT_EQ(copier.coverage().at((1 << 20) + 4096), State::leapt);
    EXPECT_EQ(copier.coverage().bytes(State::leapt), (1u << 20) - 4096);
}

TEST_F(Copying, OnlyWholeBlocksOfZerosAreCalledZeros) {
    EXPECT_TRUE(copier.read({2 << 20, 64 << 10}, State::leapt));
    EXPECT_EQ(copier.coverage().at(2 << 20), State::copied);
    EXPECT_TRUE(copier.read({2 << 20, 1 << 20}, State::leapt));
    EXPECT_EQ(copier.coverage().bytes(State::zeros), 1u << 20);
}

TEST_F(Copying, ASourceThatChangedEndsIt) {
    device.change = "the drive is not there any more";
    try {
        copier.read({1 << 20, 1 << 20}, State::leapt);
        FAIL();
    } catch (const SourceLost& e) {
        EXPECT_THAT(e.what(), HasSubstr("not there any more"));
    }
    EXPECT_EQ(copier.coverage().bytes(State::leapt), 0u) << "nothing can be said of what failed";
    EXPECT_TRUE(copier.coverage().holds({1 << 20, 4096}));
}

TEST_F(Copying, WhatIsReadThroughItIsCopiedOnce) {
    const CapturingDevice seen(copier, image);
    ByteVector bytes(100);
    ASSERT_TRUE(seen.read_at(300, bytes));
    EXPECT_TRUE(std::equal(bytes.begin(), bytes.end(), content.begin() + 300));
    ASSERT_TRUE(seen.read_at(310, bytes));
    EXPECT_EQ(device.reads.size(), 1u);
    EXPECT_EQ(device.reads[0].range, (ByteRange{0, 512}));
    // What failed once fails again without a read.
    EXPECT_FALSE(seen.read_at((1 << 20) + 4096, bytes));
    EXPECT_FALSE(seen.read_at((1 << 20) + 4096, bytes));
    EXPECT_EQ(device.reads.size(), 2u);
    EXPECT_EQ(seen.asked().bytes(), 1024u);
}

TEST_F(Copying, WhatIsSavedIsWhatIsInTheImage) {
    copier.read({0, 1 << 20}, State::leapt);
    writer.finish();
    const auto saved = read_coverage_file(folder.at("coverage.csv"));
    EXPECT_EQ(saved.coverage.bytes(State::copied), 1u << 20);
    EXPECT_EQ(saved.coverage.bytes(State::waiting), size - (1u << 20));
    EXPECT_FALSE(saved.samples.empty());
}

}  // namespace undershelf
