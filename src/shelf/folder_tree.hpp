#pragma once
// The folders of a shelf as people see them, each with what is below it. What is in a bin is where it was
// before; a folder that was there and that no entry tells of any more is made up for its sake.

#include <SQLiteCpp/SQLiteCpp.h>

#include <cstdint>
#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "shelf/shelf.hpp"

namespace undershelf {

struct FolderTotals {
    std::uint64_t files = 0, bytes = 0, likely = 0;  ///< likely or better
};

/// What says where an entry is shown.
struct EntryPlace {
    std::int64_t id = 0, folder = 0;
    int volume = 0;  ///< 0 for none
    bool is_dir = false;
    std::string first_path;
};

class FolderTree {
  public:
    using Index = std::uint32_t;
    static constexpr Index none = ~Index{0};

    struct Node {
        std::int64_t id = 0;  ///< minus a volume's number for its root; below any of these for one made up
        std::int64_t parent = 0;
        int volume = 0;
        Origin origin{};
        std::uint8_t flags = 0;
        std::uint32_t name_at = 0, name_length = 0;
        Index above = none;
        Index first_below = none, next = none;  ///< ordered by name once `arrange` was called
        bool kept = false;
        FolderTotals totals;  ///< of all that is below it
    };
    /// Of Node::flags.
    static constexpr std::uint8_t binned = 1, helper = 2, made_up = 4, is_root = 8;

    /// A folder, before all are known.
    struct Row {
        std::int64_t id = 0, parent = 0;
        int volume = 0;
        Origin origin{};
        std::uint8_t flags = 0;
        std::string name;
        FolderTotals totals;
    };

    /// As the shelf keeps it since the last scan or check; worked out where it does not.
    explicit FolderTree(const Shelf& shelf);
    /// Worked out from the entries. `shelf` is its path, for errors, which are Error(input).
    FolderTree(SQLite::Database& db, const std::string& shelf);
    /// Keeps it in the shelf. `drop` takes out what is there, as entries are about to change.
    void keep_in(SQLite::Database& db) const;
    static void drop(SQLite::Database& db);

    /// Where a file is shown, or a folder is; `none` where nothing tells.
    Index place_of(const EntryPlace& entry) const;
    const Node& at(Index i) const { return nodes_[i]; }
    std::string_view name(Index i) const {
        return std::string_view(names_).substr(nodes_[i].name_at, nodes_[i].name_length);
    }
    /// From its volume's root, which has none; of one that is deeper than `depth` that of the folder above it
    /// that is so deep.
    std::string path(Index i, std::optional<unsigned> depth = {}) const;
    std::size_t size() const { return nodes_.size(); }
    Index root(int volume) const { return find(-std::int64_t{volume}); }

    /// Forgets totals and what is kept.
    void clear();
    /// Counts a file at its place; totals are those below each folder once `sum_up` was called.
    void count(Index place, std::uint64_t bytes, bool likely);
    /// A folder that is shown, with all above it.
    void keep(Index i);
    /// Keeps what is shown where nothing is selected: all but helpers with nothing else in them.
    void keep_all();
    void sum_up();
    /// Puts the kept ones in the order of their names.
    void arrange();
    /// Numbers in the order in which a walk through these roots leaves the kept folders that are not deeper
    /// than `depth`; `none` for all others. A root is 0 deep.
    std::vector<Index> leaving_order(const std::vector<Index>& roots, unsigned depth = ~0u) const;

  private:
    Index find(std::int64_t id) const;
    /// The child of this name; a live one where there are several.
    Index below(Index parent, std::string_view name) const;
    bool load(SQLite::Database& db);
    void take(std::vector<Row>&& rows);

    std::vector<Node> nodes_;  ///< by id
    std::string names_;
    mutable std::map<std::pair<Index, std::string>, Index> by_name_;  ///< made when it is needed
};

}  // namespace undershelf
