#pragma once
// Likelihoods of the model that several of its files use; docs/rating.md argues them. For the rating's own
// files alone.

namespace undershelf {

constexpr double known_layout =
    0.99;                           ///< a recorded layout is right; the most that any number of files shows
constexpr double cross_link = 0.5;  ///< of two live files that share clusters one is wrong
constexpr double contiguous_prior = 0.96;  ///< files in general lie in one run
constexpr double habit_weight = 2;         ///< known files that what is so in general counts for

}  // namespace undershelf
