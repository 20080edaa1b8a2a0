#include "rating/kind_habits.hpp"

#include <algorithm>
#include <cmath>

#include "rating/likelihoods.hpp"

namespace undershelf {

namespace {

/// One kind in a thousand has a habit of its own before its files are looked at. On volumes of known truth,
/// whichever writer is left out, less makes no difference, and twenty times as much doubts files for a single
/// other one.
constexpr double own_habit = 0.001;
/// Such a habit is mostly all or nothing: Beta(1/2, 1/2).
constexpr double half = 0.5;

double log_beta(double a, double b) {
    return std::lgamma(a) + std::lgamma(b) - std::lgamma(a + b);
}

}  // namespace

void KindHabits::add(const Claimant& c, const VolumeTraits& traits) {
    const bool known = c.layout == Layout::known || c.verified;
    if (!known || c.is_dir || c.id == 0 || c.origin == Origin::unnamed || c.ranges.empty()) return;
    if (total_length(c.ranges) <= traits.cluster_size) return;
    bool one_run = true;
    for (std::size_t i = 1; i < c.ranges.size(); ++i) one_run &= c.ranges[i - 1].end() == c.ranges[i].offset;
    count(c.volume, c.ext, one_run);
}

void KindHabits::add_contested(int volume, const std::string& ext) {
    count(volume, ext, false);
}

void KindHabits::count(int number, const std::string& ext, bool one_run) {
    auto& volume = volumes_[number];
    for (auto* counts : {&volume.all, &volume.kinds[ext]}) {
        ++counts->files;
        counts->one_run += one_run;
    }
}

KindHabits::Counts KindHabits::of(int volume, const std::string& ext) const {
    const auto v = volumes_.find(volume);
    if (v == volumes_.end()) return {};
    const auto k = v->second.kinds.find(ext);
    return k == v->second.kinds.end() ? Counts() : k->second;
}

double KindHabits::one_run(int volume, const std::string& ext, double usual) const {
    const auto kind = of(volume, ext);
    if (kind.files == 0) return usual;
    const auto& all = volumes_.at(volume).all;
    const auto n = static_cast<double>(kind.files), k = static_cast<double>(kind.one_run);
    // How often files of other kinds lie in one run, also those that had to step over others.
    const auto as_others =
        std::min(known_layout, (static_cast<double>(all.one_run) - k + contiguous_prior * habit_weight) /
                                   (static_cast<double>(all.files) - n + habit_weight));
    const auto if_like_others = k * std::log(as_others) + (n - k) * std::log(1 - as_others);
    const auto if_own = log_beta(k + half, n - k + half) - log_beta(half, half);
    const auto odds = own_habit / (1 - own_habit) * std::exp(std::min(if_own - if_like_others, 500.));
    const auto own = odds / (1 + odds);
    return (1 - own) * usual + own * std::min(known_layout, (k + half) / (n + 2 * half));
}

}  // namespace undershelf
