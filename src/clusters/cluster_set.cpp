#include "clusters/cluster_set.hpp"

#include <algorithm>
#include <bit>

namespace undershelf::clusters {

void ClusterSet::add(const Run& run) {
    const auto to = std::min(end_, std::uint64_t{run.first} + run.count);
    for (std::uint64_t c = run.first; c < to;) {
        const auto bits = std::min<std::uint64_t>(64 - c % 64, to - c);
        words_[c / 64] |= (bits == 64 ? ~0ull : (1ull << bits) - 1) << c % 64;
        c += bits;
    }
}

void ClusterSet::add(const ClusterSet& other) {
    for (std::size_t i = 0; i < std::min(words_.size(), other.words_.size()); ++i) words_[i] |= other.words_[i];
}

std::uint64_t ClusterSet::next_in(std::uint64_t c) const {
    constexpr auto none = ~0ull;
    if (c >= end_) return none;
    auto word = words_[c / 64] & ~0ull << c % 64;
    for (auto i = c / 64;;) {
        if (word) return i * 64 + static_cast<std::uint64_t>(std::countr_zero(word));
        if (++i == words_.size()) return none;
        word = words_[i];
    }
}

std::uint64_t ClusterSet::next_out(std::uint64_t c) const {
    if (c >= end_) return c;
    auto word = ~words_[c / 64] & ~0ull << c % 64;
    for (auto i = c / 64;;) {
        if (word) return std::min(end_, i * 64 + static_cast<std::uint64_t>(std::countr_zero(word)));
        if (++i == words_.size()) return end_;
        word = ~words_[i];
    }
}

std::uint64_t ClusterSet::count() const {
    std::uint64_t sum = 0;
    for (const auto word : words_) sum += static_cast<std::uint64_t>(std::popcount(word));
    return sum;
}

std::vector<ByteRange> free_samples(const Grid& grid, const ClusterSet& used) {
    std::vector<ByteRange> out;
    const auto end = std::min(grid.end(), used.end());
    const auto step = std::max<std::uint64_t>(1, end / 512);
    for (std::uint64_t c = 2; c < end; c += step) {
        if (!used.has(c)) out.push_back(grid.range({static_cast<Cluster>(c), 1}));
    }
    return out;
}

}  // namespace undershelf::clusters
