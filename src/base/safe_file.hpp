#pragma once
// Files that are written again and again while work goes on: whenever the power fails, either the old or the
// new content is there.

#include <string>
#include <string_view>

namespace undershelf {

/// Writes `text` beside `path`, syncs it, and gives it the name. Throws std::system_error.
void replace_file(const std::string& path, std::string_view text);

}  // namespace undershelf
