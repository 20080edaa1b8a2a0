#pragma once
// Guessed layouts that run into the start of another lost file. The start is recorded, so the guess is wrong
// from there on, or was written over; and where both files are of one age they may have been written in
// turns, and then the other one's guess is no better.

#include <functional>
#include <unordered_map>

#include "content/signature.hpp"
#include "rating/claim_map.hpp"

namespace undershelf {

/// Whether the bytes at a lost entry's start fit it.
using StartLook = std::function<Agreement(std::int64_t entry)>;

/// Sets guessed claims against the recorded starts of lost entries that they run into:
/// a start whose bytes fit it is proven, and the guess ends there;
/// a start whose bytes contradict it was written over, and is no better than a guess;
/// any other ends the guess unless its file is older, and was gone when the guessed one was there: then the
/// two share the doubt, and what the guess has after that start is doubted, no match for anybody. In doubt
/// is a file whose start a guess of its own age runs into, unless that only gets there by steps over clusters
/// in use, which may have been free.
///
/// `claims`: those of one entry next to each other, in the order of its content. What is cut off becomes
/// empty. Returns which identities are in doubt, with the entry each may have been written in turns with.
/// Every start is looked at once at most; of a volume made to annoy not all meetings are gone through.
std::unordered_map<std::uint64_t, std::int64_t> settle_guesses(std::vector<Claim>& claims,
                                                               const StartLook& look,
                                                               const Progress& progress = Progress());

}  // namespace undershelf
