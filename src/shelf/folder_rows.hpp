#pragma once
// Which folders a shelf has, and in which other folder each of them is shown.

#include <SQLiteCpp/SQLiteCpp.h>

#include <algorithm>
#include <string_view>
#include <vector>

#include "shelf/folder_tree.hpp"
#include "volume/budget.hpp"

namespace undershelf {

/// Of roots, which are in nothing.
constexpr std::int64_t in_nothing = INT64_MIN;

/// The names in a path, from the root down; no more than folders are nested (volume/budget): what is deeper
/// counts as in the last of them.
template <class Visit>
void for_each_name(std::string_view path, const Visit& visit) {
    for (std::size_t depth = 0; !path.empty() && depth < bound::folder_depth;) {
        const auto end = std::min(path.find('/'), path.size());
        if (end) visit(path.substr(0, end));
        depth += end > 0;
        path.remove_prefix(std::min(end + 1, path.size()));
    }
}

/// Every folder of the shelf, the roots of its volumes, that of what is in no volume, and the made-up ones
/// that things in bins were in. In no order. Throws Error(input) for what no shelf says.
std::vector<FolderTree::Row> folder_rows(SQLite::Database& db, const std::string& shelf);

}  // namespace undershelf
