#pragma once
// Lists of unreadable ranges: a CSV file with the header `offset,length`, in bytes of the source.

#include <string>

#include "base/byte_range.hpp"

namespace undershelf {

/// Reads such a list, or the coverage file of an image, of which everything counts that is not in the image.
/// Throws Error(input) that names the file and the line that is wrong.
RangeSet read_unreadable_list(const std::string& path);

}  // namespace undershelf
