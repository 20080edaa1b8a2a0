#include "shelf/folder_rows.hpp"

#include <algorithm>
#include <limits>
#include <unordered_map>

#include "shelf/database.hpp"
#include "shelf/entry_rows.hpp"
#include "shelf/sql_words.hpp"

namespace undershelf {

namespace {

using Row = FolderTree::Row;

/// A path that something in a bin had before.
struct FirstPath {
    std::int64_t folder = 0;  ///< that it is in now
    std::int64_t id = 0;      ///< of a folder; 0 for a file
    int volume = 0;
    Origin origin{};
    std::string path;
};

class FolderRows {
  public:
    FolderRows(SQLite::Database& db, const std::string& shelf) : db_(db), shelf_(shelf) {}

    std::vector<Row> all() {
        read_folders();
        add_roots();
        place_what_is_in_bins();
        return std::move(rows_);
    }

  private:
    void read_folders() {
        Rows q(db_,
               "SELECT id, folder, coalesce(volume, 0), origin, helper, first_path, name FROM entries WHERE "
               "is_dir = 1 ORDER BY id",
               {});
        while (q.next()) {
            Row row{q.number(0), q.number(1), volume_in(q, 2), origin_in(q, 3), {}, {}, {}};
            if (q.number(4)) row.flags |= FolderTree::helper;
            std::string first_path;
            q.text(5, first_path);
            q.text(6, row.name);
            if (!first_path.empty()) {
                row.flags |= FolderTree::binned;
                row.name = name_in(first_path);
                first_.push_back({row.parent, row.id, row.volume, row.origin, first_path});
            }
            rows_.push_back(std::move(row));
        }
    }

    void add_roots() {
        rows_.push_back({0, in_nothing, 0, Origin::unnamed, FolderTree::is_root, {}, {}});
        Rows q(db_, "SELECT number FROM volumes WHERE number > 0", {});
        while (q.next())
            rows_.push_back(
                {-q.number(0), in_nothing, volume_in(q, 0), Origin::live, FolderTree::is_root, {}, {}});
    }

    void place_what_is_in_bins() {
        Rows q(db_,
               "SELECT folder, coalesce(volume, 0), origin, first_path FROM entries WHERE is_dir = 0 AND "
               "first_path IS NOT NULL",
               {});
        while (q.next()) {
            FirstPath first{q.number(0), 0, volume_in(q, 1), origin_in(q, 2), {}};
            q.text(3, first.path);
            first_.push_back(std::move(first));
        }
        if (first_.empty()) return;
        for (std::size_t i = 0; i < rows_.size(); ++i) by_id_[rows_[i].id] = i;
        for (std::size_t i = 0; i < rows_.size(); ++i) {
            if (!(rows_[i].flags & FolderTree::binned) || moved_along(rows_[i].parent)) know(i);
        }
        // What something else was in comes before it.
        std::stable_sort(first_.begin(), first_.end(), [](const FirstPath& a, const FirstPath& b) {
            return a.path.size() < b.path.size();
        });
        for (const auto& f : first_) {
            if (moved_along(f.folder)) continue;
            const auto above = folder_at(f, folder_in(f.path));
            if (!f.id) continue;
            const auto i = by_id_.at(f.id);
            rows_[i].parent = above;
            know(i);
        }
    }

    /// Was the folder itself put into the bin, with what is in it?
    bool moved_along(std::int64_t folder) const {
        const auto own = by_id_.find(folder);
        return own != by_id_.end() && (rows_[own->second].flags & FolderTree::binned);
    }

    /// A live folder is known before others of its name.
    void know(std::size_t i) {
        const auto [it, fresh] = by_name_.emplace(std::pair(rows_[i].parent, rows_[i].name), i);
        if (!fresh && rows_[it->second].origin != Origin::live && rows_[i].origin == Origin::live)
            it->second = i;
    }

    /// The folder of this path, and those above it, made up where no entry tells of them.
    std::int64_t folder_at(const FirstPath& f, std::string_view path) {
        std::int64_t above = -std::int64_t{f.volume};
        for_each_name(path, [&](std::string_view part) {
            const std::string name(part);
            const auto it = by_name_.find(std::pair(above, name));
            if (it != by_name_.end()) {
                above = rows_[it->second].id;
                return;
            }
            rows_.push_back({next_made_up_--, above, f.volume, f.origin, FolderTree::made_up, name, {}});
            by_name_.emplace(std::pair(above, name), rows_.size() - 1);
            above = rows_.back().id;
        });
        return above;
    }

    int volume_in(const Rows& q, int column) const {
        const auto value = q.number(column);
        if (value < 0 || value > std::numeric_limits<int>::max())
            damaged_shelf(shelf_, "an entry is on the volume " + std::to_string(value));
        return static_cast<int>(value);
    }
    Origin origin_in(const Rows& q, int column) const {
        const auto value = q.number(column);
        if (value < 0 || value > static_cast<std::int64_t>(Origin::unnamed))
            damaged_shelf(shelf_, "an entry has the origin " + std::to_string(value));
        return static_cast<Origin>(value);
    }

    SQLite::Database& db_;
    const std::string& shelf_;
    std::vector<Row> rows_;
    std::vector<FirstPath> first_;
    std::unordered_map<std::int64_t, std::size_t> by_id_;
    std::map<std::pair<std::int64_t, std::string>, std::size_t> by_name_;
    /// Roots have the ids from 0 down to minus the highest volume's number.
    std::int64_t next_made_up_ = std::numeric_limits<int>::min() - std::int64_t{1};
};

}  // namespace

std::vector<Row> folder_rows(SQLite::Database& db, const std::string& shelf) {
    return FolderRows(db, shelf).all();
}

}  // namespace undershelf
