#include "source/source.hpp"

#include <gtest/gtest.h>

#include <atomic>

#include "base/error.hpp"
#include "support/memory_device.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf {

namespace {
ByteVector counting(std::size_t n) {
    ByteVector out(n);
    for (std::size_t i = 0; i < n; ++i) out[i] = static_cast<std::uint8_t>(i * 7 + i / 256);
    return out;
}
}  // namespace

TEST(Source, ReadsAcrossBlocks) {
    const auto bytes = counting(300'000);
    const auto source = test::memory_source(bytes);
    for (const std::size_t length : {1u, 5000u, 290'000u}) {
        ByteVector out(length);
        EXPECT_TRUE(source->read(9'000, out).empty());
        EXPECT_TRUE(std::equal(out.begin(), out.end(), bytes.begin() + 9'000));
    }
}

TEST(Source, NarrowsErrorsToSectors) {
    const auto bytes = counting(300'000);
    const auto source = test::memory_source(bytes, RangeSet({{70'000, 1}, {100'352, 512}}));
    ByteVector out(200'000, 1);
    const auto missing = source->read(50'000, out);
    EXPECT_EQ(missing, (std::vector<ByteRange>{{69'632, 512}, {100'352, 512}}));
    EXPECT_EQ(source->unreadable().ranges(), missing);
    for (std::size_t i = 0; i < out.size(); ++i) {
        const auto at = 50'000 + i;
        const bool bad = (at >= 69'632 && at < 70'144) || (at >= 100'352 && at < 100'864);
        ASSERT_EQ(out[i], bad ? 0 : bytes[at]) << at;
    }
}

TEST(Source, SaysWhatLiesBehindTheEnd) {
    const auto source = test::memory_source(counting(1000));
    ByteVector out(600, 1);
    EXPECT_EQ(source->read(500, out), (std::vector<ByteRange>{{1000, 100}}));
    EXPECT_EQ(out.back(), 0);
    EXPECT_EQ(source->read(5000, out), (std::vector<ByteRange>{{5000, 600}}));
    EXPECT_TRUE(all_zero(out));
}

TEST(Source, DoesNotAskAgainForWhatFailed) {
    struct Counting final : ByteDevice {
        mutable std::atomic<int> reads{0};
        std::string path() const override { return "counting"; }
        std::uint64_t size() const override { return 1 << 20; }
        std::uint32_t sector_size() const override { return 512; }
        bool read_at(std::uint64_t, MutableBytes) const override {
            ++reads;
            return false;
        }
    };
    auto device = std::make_unique<Counting>();
    const auto* counter = device.get();
    const Source source(std::move(device));
    ByteVector out(512);
    source.read(0, out);
    const int first = counter->reads;
    source.read(512, out);
    source.read(0, out);
    EXPECT_EQ(counter->reads, first);
}

TEST(OpenSource, RefusesWhatIsNone) {
    const test::TemporaryFolder folder;
    EXPECT_THROW(open_source("-"), Error);
    EXPECT_THROW(open_source(folder.at("missing")), Error);
    EXPECT_THROW(open_source(folder.path().string()), Error);
    EXPECT_THROW(open_source(folder.write("empty", "")), Error);
    EXPECT_THROW(open_source("/dev/null"), Error);
}

}  // namespace undershelf
