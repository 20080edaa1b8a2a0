#include "base/bit_set.hpp"

#include <algorithm>
#include <bit>

namespace undershelf {

void BitSet::add(std::uint64_t from, std::uint64_t to) {
    to = std::min(end_, to);
    for (auto n = from; n < to;) {
        const auto bits = std::min<std::uint64_t>(64 - n % 64, to - n);
        words_[n / 64] |= (bits == 64 ? ~0ull : (1ull << bits) - 1) << n % 64;
        n += bits;
    }
}

void BitSet::add(const BitSet& other) {
    for (auto n = other.next_in(0); n < end_; n = other.next_in(n)) {
        const auto to = other.next_out(n);
        add(n, to);
        n = to;
    }
}

bool BitSet::any(std::uint64_t from, std::uint64_t to) const {
    to = std::min(end_, to);
    for (auto n = from; n < to;) {
        const auto bits = std::min<std::uint64_t>(64 - n % 64, to - n);
        if (words_[n / 64] & (bits == 64 ? ~0ull : (1ull << bits) - 1) << n % 64) return true;
        n += bits;
    }
    return false;
}

std::uint64_t BitSet::next_in(std::uint64_t n) const {
    const auto in = next_in(n, end_);
    return in < end_ ? in : ~0ull;
}

std::uint64_t BitSet::next_in(std::uint64_t n, std::uint64_t to) const {
    if (n >= std::min(to, end_)) return to;
    auto word = words_[n / 64] & ~0ull << n % 64;
    for (auto i = n / 64;;) {
        if (word) return std::min(to, i * 64 + static_cast<std::uint64_t>(std::countr_zero(word)));
        if (++i * 64 >= std::min(to, end_)) return to;
        word = words_[i];
    }
}

std::uint64_t BitSet::next_out(std::uint64_t n) const {
    return next_out(n, std::max(n, end_));
}

std::uint64_t BitSet::next_out(std::uint64_t n, std::uint64_t to) const {
    const auto last = std::min(to, end_);
    if (n >= last) return std::min(n, to);
    auto word = ~words_[n / 64] & ~0ull << n % 64;
    for (auto i = n / 64;;) {
        if (word) return std::min(last, i * 64 + static_cast<std::uint64_t>(std::countr_zero(word)));
        if (++i * 64 >= last) return last;
        word = ~words_[i];
    }
}

std::uint64_t BitSet::count() const {
    std::uint64_t sum = 0;
    for (const auto word : words_) sum += static_cast<std::uint64_t>(std::popcount(word));
    return sum;
}

}  // namespace undershelf
