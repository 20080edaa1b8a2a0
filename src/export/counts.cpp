#include "export/counts.hpp"

#include "export/exported_entry.hpp"

namespace undershelf {

void ExportResult::count(const ExportedEntry& line, int by) {
    const auto sign = static_cast<std::uint64_t>(by);  // taking back wraps around, as unsigned numbers do
    of(line.outcome) += sign;
    if (!line.path_in_bag) return;
    bytes += sign * line.size;
    if (line.link) links += sign;
}

std::uint64_t& ExportResult::of(const std::string& outcome) {
    return outcome == "whole"     ? whole
           : outcome == "partial" ? partial
           : outcome == "skipped" ? skipped
                                  : failed;
}

}  // namespace undershelf
