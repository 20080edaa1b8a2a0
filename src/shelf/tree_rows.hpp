#pragma once
// Entries of a selection by the folders they are shown in.

#include <functional>
#include <vector>

#include "shelf/folder_tree.hpp"

namespace undershelf {

/// What a selection comes to, and its files by number.
struct CountedSelection {
    Shelf::Sum sum;
    IdSet files;
};

/// Counts the selected files in `tree`, which is cleared, and keeps the folders that are selected or have one
/// in them.
CountedSelection count_in_tree(const Shelf& shelf, const Selection& selection, FolderTree& tree);

/// Calls `visit` for the selected files, folder by folder: in the order of the numbers that `order` has for
/// the folders (of none: left out), and by name in each. Of an entry only what a line of a tree needs is
/// there. SQLite sorts, so that a million files take little memory. `tree` and `order` must outlive the call.
void for_each_in_tree(const Shelf& shelf, const Selection& selection, const FolderTree& tree,
                      const std::vector<FolderTree::Index>& order,
                      const std::function<void(FolderTree::Index number, const ShelfEntry&)>& visit);

/// `place_in_tree(POINTER, folder, volume, first path)`: the number of the folder in the order; NULL for
/// none.
void add_tree_function(SQLite::Database& db);

}  // namespace undershelf
