#pragma once
// Statements that name what a shelf has as numbers.

#include <string>
#include <string_view>

namespace undershelf {

/// `sql` with the numbers of `#live`, `#unnamed` (Origin), `#known` (Layout) and `#likely` (Grade) in their
/// places. Any other word after `#` stays as it is, so that SQLite refuses the statement.
std::string worded(std::string_view sql);

}  // namespace undershelf
