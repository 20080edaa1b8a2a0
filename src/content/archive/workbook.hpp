#pragma once
// Tables of Excel's workbooks (ECMA-376, part 1, 18.3 and 18.4): rows of cells, whose texts are kept in a
// list of their own.

#include <vector>

#include "content/archive/zip_directory.hpp"
#include "content/words.hpp"

namespace undershelf::content {

bool is_workbook(const std::vector<ZipDirectoryMember>& members);
/// A line a row, a tab between cells, a blank line between sheets.
void workbook_words(Content& content, const std::vector<ZipDirectoryMember>& members, Pieces& out);

}  // namespace undershelf::content
