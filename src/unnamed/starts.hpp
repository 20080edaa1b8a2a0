#pragma once
// Where contents may begin: places at which a format is recognised by its first bytes, whoever has them.

#include <string_view>
#include <vector>

#include "volume/trace.hpp"

namespace undershelf {

/// A place at which a content of some format may begin.
struct ContentStart {
    std::uint64_t offset = 0;  ///< in the source
    std::string_view format;   ///< a word of formats(), as far as the start tells
    std::uint64_t print = 0;   ///< of its first bytes
    /// A document that begins within a line of another text: where that one ends cannot be seen otherwise.
    bool breaks_a_line = false;
    bool operator==(const ContentStart&) const = default;
};

/// Contents begin at sectors at the least.
constexpr std::uint64_t start_step = 512;

/// The starts in the owned part of a buffer, at whole sectors of the source, ascending. A pure function: many
/// buffers can be looked through at the same time. What goes on from the sector before is no start: the
/// second page of a text, the next pack of a film; but at the start of a buffer that cannot be seen.
std::vector<ContentStart> find_starts(const SweepBuffer& buffer);

}  // namespace undershelf
