#pragma once
// A set of numbers below a bound, one bit each, with quick ways over long stretches.

#include <cstdint>
#include <vector>

namespace undershelf {

class BitSet {
  public:
    /// Room for the numbers 0 .. end - 1; others are never in it.
    explicit BitSet(std::uint64_t end = 0) : end_(end), words_((end + 63) / 64) {}

    bool has(std::uint64_t n) const { return n < end_ && (words_[n / 64] >> n % 64 & 1); }
    void add(std::uint64_t n) {
        if (n < end_) words_[n / 64] |= 1ull << n % 64;
    }
    void remove(std::uint64_t n) {
        if (n < end_) words_[n / 64] &= ~(1ull << n % 64);
    }
    /// The numbers from .. to - 1.
    void add(std::uint64_t from, std::uint64_t to);
    /// All of another set that there is room for.
    void add(const BitSet& other);
    /// Is any of from .. to - 1 in it?
    bool any(std::uint64_t from, std::uint64_t to) const;
    /// The first number from `n` on that is in it; the largest of all numbers when there is none.
    std::uint64_t next_in(std::uint64_t n) const;
    /// The same before `to`, `to` when there is none: looks no further, so that many short stretches of a
    /// large set cost what they are long.
    std::uint64_t next_in(std::uint64_t n, std::uint64_t to) const;
    /// The first number from `n` on that is not in it.
    std::uint64_t next_out(std::uint64_t n) const;
    /// The same before `to`, `to` when there is none.
    std::uint64_t next_out(std::uint64_t n, std::uint64_t to) const;
    std::uint64_t count() const;
    std::uint64_t end() const { return end_; }

  private:
    std::uint64_t end_;
    std::vector<std::uint64_t> words_;
};

}  // namespace undershelf
