#include "scan/sweep.hpp"

#include <gtest/gtest.h>

#include "support/memory_device.hpp"

namespace undershelf {

namespace {

/// A device of holes with a little data.
class Sparse final : public ByteDevice {
  public:
    explicit Sparse(std::vector<ByteRange> data) : data_(std::move(data)) {}
    std::string path() const override { return "sparse.img"; }
    std::uint64_t size() const override { return 1ull << 50; }
    std::uint32_t sector_size() const override { return 512; }
    bool read_at(std::uint64_t, MutableBytes out) const override {
        std::fill(out.begin(), out.end(), 0);
        return true;
    }
    std::vector<ByteRange> data_ranges() const override { return data_; }

  private:
    std::vector<ByteRange> data_;
};

struct Seen {
    std::vector<ByteRange> owned;
    std::uint64_t end = 0;
};

Seen sweep_all(const Source& source, std::uint64_t from = 0, std::size_t most = ~0ull) {
    Seen seen;
    seen.end = sweep<ByteRange>(
        source, source.data_ranges(), from,
        [](const SweepBuffer& b) {
            EXPECT_GE(b.bytes.size(), b.owned + 4096);
            return ByteRange{b.offset, b.owned};
        },
        [&](ByteRange&& owned, std::uint64_t swept) {
            EXPECT_EQ(swept, owned.end());
            seen.owned.push_back(owned);
            return seen.owned.size() < most;
        });
    return seen;
}

}  // namespace

TEST(Sweep, OwnsEveryByteOnceAndInOrder) {
    const auto source = test::memory_source(ByteVector((9 << 20) + 700));
    const auto seen = sweep_all(*source);
    std::uint64_t at = 0;
    for (const auto& r : seen.owned) {
        EXPECT_EQ(r.offset, at);
        at = r.end();
    }
    EXPECT_EQ(at, source->size());
    EXPECT_EQ(seen.end, source->size());
}

TEST(Sweep, GoesOnWhereItWasLeft) {
    const auto source = test::memory_source(ByteVector(20 << 20));
    const auto first = sweep_all(*source, 0, 2);
    EXPECT_EQ(first.owned.size(), 2u);
    EXPECT_EQ(first.end, first.owned.back().end());
    const auto rest = sweep_all(*source, first.end);
    EXPECT_EQ(rest.owned.front().offset, first.end);
    EXPECT_EQ(rest.end, source->size());
}

TEST(Sweep, SkipsHoles) {
    const Source source(std::make_unique<Sparse>(
        std::vector<ByteRange>{{1ull << 40, 5000}, {(1ull << 40) + 9000, 10}, {1ull << 45, 600}}));
    const auto seen = sweep_all(source);
    ASSERT_EQ(seen.owned.size(), 2u);
    EXPECT_EQ(seen.owned[0].offset, 1ull << 40);
    EXPECT_EQ(seen.owned[0].length, 9010u);
    EXPECT_EQ(seen.end, source.size());
}

}  // namespace undershelf
