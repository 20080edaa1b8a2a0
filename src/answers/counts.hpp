#pragma once
// What a shelf has, counted.

#include <array>
#include <map>
#include <vector>

#include "shelf/shelf.hpp"

namespace undershelf {

struct Counts {
    std::uint64_t folders = 0, files = 0, bytes = 0;
    std::array<std::uint64_t, 6> by_grade{};
};

using Rows = std::map<int, Counts>;

/// By the number of an origin, a kind or a volume.
Rows rows_of(const Shelf& shelf, Shelf::TallyBy by);

/// What is live on each volume.
Rows live_by_volume(const Shelf& shelf);

struct Totals {
    Counts live, lost;
};
Totals totals_of(const Rows& by_origin);

inline constexpr std::array shown_grades{Grade::verified, Grade::likely, Grade::doubtful, Grade::partial,
                                         Grade::gone};

std::uint64_t likely_or_better(const Counts& counts);
/// Present volumes before former ones, then those that offer most files, likely or better, then by support.
std::vector<Volume> best_first(std::vector<Volume> volumes, const Rows& by_volume);

}  // namespace undershelf
