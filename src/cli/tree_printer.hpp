#pragma once
// A tree of folders, drawn: each folder with what is below it, and the files in it.

#include <functional>

#include "cli/column_writer.hpp"
#include "shelf/folder_tree.hpp"

namespace undershelf::cli {

/// Walks through the kept folders of a tree that is arranged, depth first; the files of a folder come after
/// the folders in it. Folders that are `depth` deep are not entered.
class TreePrinter {
  public:
    using Index = FolderTree::Index;
    /// Of a folder, all but its name and lines.
    using FolderRow = std::function<void(const FolderTree::Node&, std::vector<ColumnWriter::Cell>&)>;
    using FileRow = std::function<void(const ShelfEntry&, std::vector<ColumnWriter::Cell>&)>;

    /// `titles`: the roots in their order, each with its title.
    TreePrinter(const FolderTree& tree, std::vector<std::pair<Index, std::string>> titles, unsigned depth,
                bool files, ColumnWriter& out, int most_lines);

    /// The numbers that files come by.
    const std::vector<Index>& order() const { return order_; }
    /// Draws all folders that come before the first file.
    void begin(const FolderRow& folder);
    /// Files must come in the order of their folders' numbers.
    void file(Index number, const ShelfEntry& entry, const FolderRow& folder, const FileRow& file);
    void finish(const FolderRow& folder);

  private:
    struct Level {
        Index folder;
        Index next;           ///< of those in it
        std::uint64_t files;  ///< in it, that are still to come
        std::string lead;
    };
    bool step(const FolderRow& row);
    void enter(Index folder, const std::string& lead, const std::string& below, const FolderRow& row);
    std::string name_of(const FolderTree::Node& node, Index i) const;

    const FolderTree& tree_;
    std::vector<std::pair<Index, std::string>> titles_;
    unsigned depth_;
    bool files_;
    ColumnWriter& out_;
    int most_lines_;
    std::vector<Index> order_;
    std::vector<std::uint64_t> direct_;  ///< files in each folder itself
    std::size_t next_root_ = 0;
    std::vector<Level> open_;
    std::vector<ColumnWriter::Cell> cells_;
};

}  // namespace undershelf::cli
