#include "volume/budget.hpp"

#include <algorithm>

namespace undershelf {

namespace {
/// Times over that all clusters and bytes on the source may be had, what each entry adds, and what all have.
struct Rate {
    std::uint64_t units, bytes, entries, base;
};

constexpr Rate rate_of(Budget::Cost cost) {
    switch (cost) {
        case Budget::Cost::crossing:
            return {4, 0, 16, 1 << 16};
        case Budget::Cost::guess:
            return {4, 0, 2, 1 << 16};
        case Budget::Cost::claim:
            return {4, 0, 2, 1 << 17};
        case Budget::Cost::index:
            return {0, 2, 0, 1 << 20};
    }
    return {};
}
}  // namespace

Budget Budget::of(const Volume& volume, std::uint64_t source_size) {
    const auto there = source_size > volume.offset ? source_size - volume.offset : 0;
    const auto bytes = std::min(volume.size, there);
    return {bytes / std::max<std::uint32_t>(volume.cluster_size, 512) + 1, bytes};
}

std::uint64_t Budget::allowance(Cost cost) const {
    const auto rate = rate_of(cost);
    return rate.units * units_ + rate.bytes * bytes_ + rate.entries * entries_ + rate.base;
}

std::uint64_t Budget::left(Cost cost) const {
    const auto all = allowance(cost);
    return all - std::min(all, used_[static_cast<std::size_t>(cost)]);
}

std::uint64_t Budget::take(Cost cost, std::uint64_t wanted) {
    const auto i = static_cast<std::size_t>(cost);
    const auto granted = std::min(wanted, left(cost));
    used_[i] += granted;
    spent_[i] |= granted < wanted;
    return granted;
}

std::vector<std::string> Budget::remarks() const {
    std::vector<std::string> out;
    const auto say = [&](Cost cost, const char* what) {
        if (spent(cost)) out.emplace_back(what);
    };
    say(Cost::crossing,
        "Its files' chains run through each other far more often than damage explains; some were followed "
        "only to where they first do.");
    say(Cost::guess,
        "Its deleted entries ask for many times more than the volume holds; the layouts of some were not "
        "worked out to their end.");
    say(Cost::claim,
        "Its entries are said to lie in more pieces than the volume has clusters; some count as one stretch "
        "where their bytes are compared with others'.");
    say(Cost::index, "Its folder indexes overlap each other; some were read only in part.");
    return out;
}

}  // namespace undershelf
