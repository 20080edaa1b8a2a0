#include "volume/budget.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace undershelf {

namespace {
/// Times over that all clusters of the source may be had, what each entry adds, and what every volume has.
struct Rate {
    std::uint64_t each_unit, each_entry, base;
};

constexpr Rate rate_of(Budget::Cost cost) {
    switch (cost) {
        case Budget::Cost::crossing:
            return {4, 16, 1 << 16};
        case Budget::Cost::guess:
            return {4, 2, 1 << 16};
        case Budget::Cost::claim:
            return {4, 2, 1 << 17};
        case Budget::Cost::index:
            return {1, 0, 1 << 16};
    }
    return {};
}
}  // namespace

std::uint64_t Budget::allowance(Cost cost) const {
    const auto rate = rate_of(cost);
    return rate.each_unit * units_ + rate.each_entry * entries_ + rate.base;
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

std::vector<std::string> Budget::remarks(const std::string& volume) const {
    std::vector<std::string> out;
    const auto say = [&](Cost cost, const char* what) {
        if (spent(cost)) out.push_back(fmt::format("{}: {}", volume, what));
    };
    say(Cost::crossing,
        "its files' chains run through each other far more often than damage explains; some were followed "
        "only to where they first do.");
    say(Cost::guess,
        "its deleted entries ask for many times more than the volume holds; the layouts of some were not "
        "worked out to their end.");
    say(Cost::claim,
        "its entries are said to lie in more pieces than the volume has clusters; some count as one stretch "
        "where their bytes are compared with others'.");
    say(Cost::index, "its folder indexes overlap each other; some were read only in part.");
    return out;
}

}  // namespace undershelf
