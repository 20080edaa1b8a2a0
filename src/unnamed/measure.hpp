#pragma once
// How far a content reaches that begins at a place, and whether it holds: by its own structure where that has
// an end, else by the zeros that writers put after a file's end, else up to where something else begins.

#include <functional>
#include <optional>
#include <string>

#include "base/progress.hpp"
#include "content/formats.hpp"
#include "content/reading.hpp"
#include "source/source.hpp"

namespace undershelf {

/// By what a content without a name was measured.
enum class Ending : std::uint8_t {
    structure,  ///< its own structure tells its end
    zeros,      ///< zeros follow, up to the end of its sector at least
    cut,        ///< its end is not known: it is taken up to where something else begins
};

/// What is at a place, as far as it goes.
struct Measured {
    ByteRange range;  ///< of the source
    Check check;      ///< of these bytes; its format is empty where nobody reads it
    std::string_view format;
    Inside inside;  ///< what it tells of itself
    Ending ending = Ending::cut;
    std::string cut_by;          ///< where it was cut: by what, as the end of a sentence
    bool zeros_behind = false;   ///< as writers fill the last sector of a file
    bool others_within = false;  ///< what holds by itself begins within it
    bool begins_within = false;  ///< a text that may have lost its beginning

    bool whole() const { return ending != Ending::cut; }
    /// It holds to its end, by a check that says more than where it ends.
    bool proven() const {
        return whole() && check.complete && check.strength >= Strength::fair && !check.loose_end;
    }
};

/// The space that a content may take, and what is known to begin in it.
struct Stretch {
    std::uint64_t start = 0;
    std::uint64_t end = 0;   ///< the next byte that somebody has, or the end of the volume
    std::uint64_t step = 0;  ///< the cluster size there, bytes
    /// Where the next content is recognised, from a place on; `end` where none is. What looks like a start of
    /// `own` format is a part of it up to `own_to`, unless it breaks a line.
    std::function<std::uint64_t(std::uint64_t from, const Format& own, std::uint64_t own_to)> next_start;
};

/// Some writers put a few bytes more after the end that the structure tells. Zeros after them show them, in
/// the same sector or throughout the next one: how many they are, from `end` in the source on; 0 for none.
/// The cluster of that end ends at `cluster_end`.
std::uint64_t bytes_after_end(const Source& source, std::uint64_t end, std::uint64_t cluster_end);

/// Measures what begins at `stretch.start`; nothing where what looked like a start is none. Reads as far as
/// it holds, and twice what has no end of its own; `read` is raised by the bytes of that.
std::optional<Measured> measure(const Source& source, const Stretch& stretch, const Progress& progress,
                                std::uint64_t& read, ContentReading& reading);

}  // namespace undershelf
