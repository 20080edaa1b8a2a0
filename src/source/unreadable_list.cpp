#include "source/unreadable_list.hpp"

#include <fmt/format.h>

#include "base/error.hpp"
#include "source/coverage_file.hpp"
#include "source/csv_lines.hpp"

namespace undershelf {

RangeSet read_unreadable_list(const std::string& path) {
    const auto file = read_csv(path, "The list of unreadable ranges");
    std::vector<ByteRange> ranges;
    if (file.header == coverage_header) {
        for (const auto& s : read_coverage_file(path).coverage.stretches()) {
            if (!is_in_image(s.state)) ranges.push_back(s.range);
        }
        return RangeSet(std::move(ranges));
    }
    if (file.header != "offset,length") {
        throw Error(
            Trouble::input,
            fmt::format("{} is not a list of unreadable ranges: its first line must be `offset,length`.",
                        path));
    }
    for (const auto& row : file.rows) {
        const auto range = row.fields.size() == 2 ? parse_range(row.fields[0], row.fields[1]) : std::nullopt;
        if (!range) refuse_row(path, row, "is not an offset and a length in bytes");
        ranges.push_back(*range);
    }
    return RangeSet(std::move(ranges));
}

}  // namespace undershelf
