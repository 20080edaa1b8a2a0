#pragma once
// Where links lead, and what an entry has of it.

#include <string>

#include "volume/model.hpp"

namespace undershelf {

/// Longer ones are not told, bytes: systems open no longer path.
constexpr std::size_t longest_target = 4096;

/// Of a live link the target as it is recorded. What was written over a lost one is seldom a text: a target
/// with control characters, or with bytes that are no characters, becomes empty.
std::string recorded_target(std::string target, Origin origin);

/// Makes `link.link` its content, wherever its driver keeps that: `source` is that place, bytes. A lost link
/// whose target cannot be read has no content.
void hold_target(Entry& link, std::uint64_t source);

}  // namespace undershelf
