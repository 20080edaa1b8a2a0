#pragma once
// Numbers of entries from a file: one on a line, or a list of ours as CSV or JSON lines.

#include <istream>
#include <string>

#include "shelf/selection.hpp"
#include "shelf/shelf.hpp"

namespace undershelf {

/// `# undershelf shelf 0123456789abcdef`: the first line of a list that is made from a shelf.
std::string id_list_heading(const Shelf& shelf);

/// Reads all of `in`; `file` is its name in errors. Empty lines and those after a `#` are passed over, a byte
/// order mark and CR as well. A line may be a range, `10-20`. Throws Error(usage) with the line's number for
/// what is no number.
/// Folders in lists of ours are left out: what was listed of them has lines of its own.
ListedIds read_id_list(std::istream& in, const std::string& file);
/// Of a file; `-` is standard input. Throws Error(usage) where it cannot be read.
ListedIds id_list_from(const std::string& file);

/// `10-20`, `25`: adds them. False for what is neither.
bool add_numbers(IdSet& to, std::string_view text);

/// What a technician should know of a list: numbers that are no entries. Throws Error(refused) for a list
/// that was made from another shelf.
std::vector<std::string> check_id_list(const Shelf& shelf, const ListedIds& list);

}  // namespace undershelf
