#pragma once
// Which folders a shelf has, and in which other folder each of them is shown.

#include <SQLiteCpp/SQLiteCpp.h>

#include <vector>

#include "shelf/folder_tree.hpp"

namespace undershelf {

/// Of roots, which are in nothing.
constexpr std::int64_t in_nothing = INT64_MIN;

/// Every folder of the shelf, the roots of its volumes, that of what is in no volume, and the made-up ones
/// that things in bins were in. In no order. Throws Error(input) for what no shelf says.
std::vector<FolderTree::Row> folder_rows(SQLite::Database& db, const std::string& shelf);

}  // namespace undershelf
