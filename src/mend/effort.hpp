#pragma once
// How much is tried to mend contents. Counted in clusters that are read for layouts that are tried, never in
// seconds: the same shelf and source give the same result.

#include <algorithm>
#include <cstdint>
#include <optional>
#include <string_view>

namespace undershelf {

enum class MendEffort : std::uint8_t { none, low, normal, high };

/// `low`, `normal`, `high`; nothing for any other word.
inline std::optional<MendEffort> mend_effort_from_word(std::string_view word) {
    if (word == "low") return MendEffort::low;
    if (word == "normal") return MendEffort::normal;
    if (word == "high") return MendEffort::high;
    return std::nullopt;
}

/// For one file at most, and for all of one run.
struct MendBudget {
    std::uint64_t of_file = 20'000, of_run = 1'000'000;
};
constexpr MendBudget budget_of(MendEffort effort) {
    constexpr MendBudget normal;
    constexpr std::uint64_t less = 4, more = 20;
    if (effort == MendEffort::none) return {0, 0};
    if (effort == MendEffort::low) return {normal.of_file / less, normal.of_run / less};
    if (effort == MendEffort::high) return {normal.of_file * more, normal.of_run * more};
    return normal;
}

/// What a file of so many clusters gets: what is short needs less.
constexpr std::uint64_t share_of_file(const MendBudget& budget, std::uint64_t clusters) {
    constexpr std::uint64_t for_each = 1000;
    return std::min(budget.of_file, std::max<std::uint64_t>(clusters, 4) * for_each);
}

}  // namespace undershelf
