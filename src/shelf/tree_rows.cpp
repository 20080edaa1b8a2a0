#include "shelf/tree_rows.hpp"

#include <fmt/format.h>
#include <sqlite3.h>

#include <algorithm>

#include "base/saturating.hpp"
#include "shelf/entry_rows.hpp"

namespace undershelf {

namespace {

constexpr const char* order_type = "undershelf tree order";

struct TreeOrder {
    const FolderTree* tree;
    const std::vector<FolderTree::Index>* order;
};

/// Values: the order, folder, volume, first path.
void place_function(sqlite3_context* context, int, sqlite3_value** values) {
    const auto* order = static_cast<const TreeOrder*>(sqlite3_value_pointer(values[0], order_type));
    if (!order) return;
    EntryPlace place;
    place.folder = sqlite3_value_int64(values[1]);
    place.volume = sqlite3_value_int(values[2]);
    if (const auto* path = reinterpret_cast<const char*>(sqlite3_value_text(values[3])))
        place.first_path.assign(path, static_cast<std::size_t>(sqlite3_value_bytes(values[3])));
    const auto folder = order->tree->place_of(place);
    if (folder == FolderTree::none) return;
    const auto number = (*order->order)[folder];
    if (number != FolderTree::none) sqlite3_result_int64(context, number);
}

}  // namespace

void add_tree_function(SQLite::Database& db) {
    db.createFunction("place_in_tree", 4, true, nullptr, place_function);
}

CountedSelection count_in_tree(const Shelf& shelf, const Selection& selection, FolderTree& tree) {
    tree.clear();
    const auto where = shelf.condition_of(selection);
    Rows rows(
        shelf.database(),
        fmt::format("SELECT e.id, e.folder, coalesce(e.volume, 0), e.is_dir, e.first_path, e.size, e.grade * "
                    "(e.rated = 1) FROM {}{}{}",
                    entry_tables, where.text.empty() ? "" : " WHERE ", where.text),
        where.values);
    Shelf::Sum sum;
    std::vector<ByteRange> files;
    EntryPlace place;
    while (rows.next()) {
        place.id = rows.number(0);
        place.folder = rows.number(1);
        place.volume = static_cast<int>(rows.number(2));
        place.is_dir = rows.number(3) != 0;
        rows.text(4, place.first_path);
        ++(place.is_dir ? sum.folders : sum.files);
        const auto at = tree.place_of(place);
        if (place.is_dir) {
            tree.keep(at);
            continue;
        }
        const auto size = static_cast<std::uint64_t>(std::max<std::int64_t>(rows.number(5), 0));
        sum.bytes = saturating_add(sum.bytes, size);
        const auto id = static_cast<std::uint64_t>(place.id);
        if (!files.empty() && files.back().end() == id)
            ++files.back().length;
        else
            files.push_back({id, 1});
        if (at != FolderTree::none)
            tree.count(at, size, rows.number(6) >= static_cast<std::int64_t>(Grade::likely));
    }
    tree.sum_up();
    return {sum, IdSet(std::move(files))};
}

void for_each_in_tree(const Shelf& shelf, const Selection& selection, const FolderTree& tree,
                      const std::vector<FolderTree::Index>& order,
                      const std::function<void(FolderTree::Index, const ShelfEntry&)>& visit) {
    const auto where = shelf.condition_of(selection);
    // It comes before all other values.
    std::vector<SqlValue> values{
        SqlPointer{std::make_shared<const TreeOrder>(TreeOrder{&tree, &order}), order_type}};
    values.insert(values.end(), where.values.begin(), where.values.end());
    Rows rows(
        shelf.database(),
        fmt::format("SELECT {}, place_in_tree(?, e.folder, coalesce(e.volume, 0), e.first_path) AS place "
                    "FROM {} WHERE {}{}e.is_dir = 0 ORDER BY place, fold(shown_name(e.first_path, e.name)), "
                    "e.id",
                    line_columns, entry_tables, where.text, where.text.empty() ? "" : " AND "),
        values);
    ShelfEntry entry;
    while (rows.next()) {
        if (rows.null(line_column_count)) continue;
        read_line(rows, shelf.path(), entry);
        visit(static_cast<FolderTree::Index>(rows.number(line_column_count)), entry);
    }
}

}  // namespace undershelf
