#pragma once
// The known word that somebody may have meant.

#include <string>
#include <string_view>
#include <vector>

namespace undershelf {

/// The word of `known` that differs in the fewest letters added, left out, changed or swapped (restricted
/// Damerau-Levenshtein distance), the first of several; empty where none is near: a third of the letters, one
/// at least. A word that begins like one alone is near it.
std::string nearest(std::string_view word, const std::vector<std::string>& known);

/// ` Did you mean X?` in backquotes; empty where nothing is near.
std::string did_you_mean(std::string_view word, const std::vector<std::string>& known);

}  // namespace undershelf
