#pragma once
// Parts of the planner that walk over the facts on their own; for its own files alone.

#include "answers/facts.hpp"
#include "answers/steps.hpp"

namespace undershelf {

/// One piece of a table or of a folder is left by many who have nothing more to tell.
inline constexpr std::uint64_t enough_traces = 4;

/// What is wrong, or about to be.
void warn(const Facts& facts, Plan& out);
/// Nothing is left to do: why, and what only others could.
void say_it_is_over(const Facts& facts, Plan& out);
/// A scan of the source as far as `reach`, under the settings of its shelf.
std::vector<std::string> scan_words(const Facts& facts, const std::string& reach);
/// `a`, `a, and b`, `a, b, and c`.
std::string listed(const std::vector<std::string>& parts);

}  // namespace undershelf
