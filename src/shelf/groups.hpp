#pragma once
// What a selection has, counted in groups.

#include <array>
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "shelf/shelf.hpp"

namespace undershelf {

enum class GroupBy : std::uint8_t { kind, ext, format, folder, volume, origin, grade, year, month };

struct ShelfGroup {
    /// Of a kind, origin, grade or volume its number; of a folder its volume's; a year, or a month as 202403.
    std::int64_t number = 0;
    std::string text;     ///< of an extension, a format, or the path of a folder
    bool absent = false;  ///< files without an extension, format or date
    bool deep = false;    ///< of a folder: what is in folders below it is among it
    std::uint64_t files = 0, bytes = 0;
    std::array<std::uint64_t, 6> by_grade{};  ///< files; 0 for those without one
};

/// The number of a date's group: its year, or its month as 202403.
std::int64_t date_number(const Timestamp& time, GroupBy by);

/// Files alone, by the dates of their last change, and by the folders they are shown in. `depth`: folders
/// deeper than so many count with the one that is so deep. In the order of their numbers and texts. Throws
/// Error(input) for what no shelf says.
std::vector<ShelfGroup> groups_of(const Shelf& shelf, const Selection& selection, GroupBy by,
                                  std::optional<unsigned> depth = {});

}  // namespace undershelf
