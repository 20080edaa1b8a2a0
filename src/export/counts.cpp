#include "export/counts.hpp"

#include "export/exported_entry.hpp"

namespace undershelf {

void ExportResult::count(const ExportedEntry& line, int by) {
    const auto sign = static_cast<std::uint64_t>(by);  // taking back wraps around, as unsigned numbers do
    of(line.outcome) += sign;
    if (!line.path_in_bag) return;
    bytes += sign * line.size;
    if (line.link) links += sign;
    if (!line.grade.empty()) by_grade[line.grade] += sign;
    if (line.holds.value_or(true)) return;
    broken += sign;
    constexpr std::size_t most_named = 3;
    if (by > 0 && first_broken.size() < most_named)
        first_broken.emplace_back(*line.path_in_bag, line.holds_to.value_or(0));
    if (by < 0)
        std::erase_if(first_broken, [&](const auto& named) { return named.first == *line.path_in_bag; });
}

std::uint64_t& ExportResult::of(const std::string& outcome) {
    return outcome == "complete"  ? complete
           : outcome == "partial" ? partial
           : outcome == "skipped" ? skipped
                                  : failed;
}

}  // namespace undershelf
