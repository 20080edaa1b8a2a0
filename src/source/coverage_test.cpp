#include "source/coverage.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <random>

#include "base/ensure.hpp"

namespace undershelf {

namespace {

using ::testing::ElementsAre;
using State = CoverageState;

/// The same, a byte at a time.
class PlainCoverage {
  public:
    explicit PlainCoverage(std::size_t size) : states_(size, State::waiting) {}
    void set(const ByteRange& r, State s) {
        for (auto at = r.offset; at < r.end(); ++at) states_[at] = s;
    }
    std::vector<Coverage::Stretch> stretches() const {
        std::vector<Coverage::Stretch> out;
        for (std::size_t at = 0; at < states_.size(); ++at) {
            if (out.empty() || out.back().state != states_[at]) out.push_back({{at, 0}, states_[at]});
            ++out.back().range.length;
        }
        return out;
    }
    std::uint64_t bytes(State s) const {
        return static_cast<std::uint64_t>(std::count(states_.begin(), states_.end(), s));
    }

  private:
    std::vector<State> states_;
};

}  // namespace

TEST(Coverage, AgreesWithOneStateAByte) {
    std::mt19937 random(11);
    constexpr std::uint64_t size = 200;
    Coverage coverage(size);
    PlainCoverage plain(size);
    for (int i = 0; i < 3000; ++i) {
        const auto from = random() % size;
        const ByteRange range{from, random() % (size - from + 1)};
        const auto state = static_cast<State>(random() % coverage_states);
        coverage.set(range, state);
        plain.set(range, state);
        ASSERT_EQ(coverage.stretches(), plain.stretches()) << "after step " << i;
        for (std::size_t s = 0; s < coverage_states; ++s)
            ASSERT_EQ(coverage.bytes(static_cast<State>(s)), plain.bytes(static_cast<State>(s)));
    }
}

TEST(Coverage, NothingIsCopiedBeyondTheSource) {
    Coverage c(1000);
    EXPECT_NO_THROW(c.set({0, 1000}, CoverageState::copied));
    EXPECT_THROW(c.set({500, 501}, CoverageState::copied), OwnMistake);
    EXPECT_THROW(c.set({1001, 0}, CoverageState::copied), OwnMistake);
    EXPECT_THROW(c.set({500, ~0ull}, CoverageState::copied), OwnMistake);
}

TEST(Coverage, FindsTheFirstAndTheLastStretchWithinARange) {
    Coverage c(100);
    c.set({10, 20}, State::leapt);
    c.set({50, 10}, State::leapt);
    EXPECT_EQ(c.first(State::leapt, {0, 100}), (ByteRange{10, 20}));
    EXPECT_EQ(c.first(State::leapt, {15, 85}), (ByteRange{15, 15}));
    EXPECT_EQ(c.last(State::leapt, {0, 55}), (ByteRange{50, 5}));
    EXPECT_EQ(c.last(State::leapt, {0, 45}), (ByteRange{10, 20}));
    EXPECT_EQ(c.last(State::leapt, {60, 40}), std::nullopt);
    EXPECT_EQ(c.first(State::copied, {0, 100}), std::nullopt);
    EXPECT_THAT(c.ranges(State::leapt, {20, 35}), ElementsAre(ByteRange{20, 10}, ByteRange{50, 5}));
}

TEST(Coverage, HoldsWhatIsCopiedOrZeros) {
    Coverage c(100);
    c.set({0, 40}, State::copied);
    c.set({40, 20}, State::zeros);
    EXPECT_TRUE(c.holds({0, 60}));
    EXPECT_FALSE(c.holds({0, 61}));
    c.set({20, 1}, State::unreadable);
    EXPECT_FALSE(c.holds({0, 60}));
    EXPECT_TRUE(c.holds({21, 39}));
}

}  // namespace undershelf
