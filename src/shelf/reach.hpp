#pragma once
// How far a scan goes.

#include <cstdint>
#include <optional>
#include <string_view>

namespace undershelf {

/// Each does what the ones before it do, and more.
enum class Reach : std::uint8_t {
    volumes,  ///< what is where maps, usual places and copies say
    traces,   ///< and what a sweep over the whole source finds
    content,  ///< and lost contents are read to their end, and those that nothing names are looked for
};

/// As shelves and options have it.
std::string_view word(Reach reach);
std::optional<Reach> reach_from_word(std::string_view word);

}  // namespace undershelf
