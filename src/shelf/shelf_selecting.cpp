// What a shelf has of a selection: entries one by one, and what they come to.

#include <fmt/format.h>

#include <algorithm>
#include <set>
#include <unordered_map>

#include "base/saturating.hpp"
#include "base/text.hpp"
#include "shelf/database.hpp"
#include "shelf/entry_rows.hpp"
#include "shelf/packing.hpp"
#include "shelf/shelf.hpp"
#include "volume/budget.hpp"

namespace undershelf {

namespace {

/// Of those that a selection asks for; more than anybody has moved.
constexpr std::size_t most_moved_folders = 1000;

/// What is in folders that a selection has by their numbers.
class InFolders {
  public:
    InFolders(SQLite::Database& db, const IdSet& ids) : db_(db) {
        Selection folders;
        folders.ids = ids;
        folders.folders_only = true;
        const auto chosen = where_clause(folders);
        Rows q(db_, "SELECT e.id FROM entries e WHERE " + chosen.text, chosen.values);
        while (q.next()) take(q.number(0));
        if (folders_.empty()) return;
        read_children();
        add_below();
        add_from_bins();
        add_below();
    }

    Beyond take_all() {
        std::vector<ByteRange> folders;
        for (const auto id : folders_) folders.push_back({static_cast<std::uint64_t>(id), 1});
        return {IdSet(std::move(folders)), std::move(entries_)};
    }

  private:
    void take(std::int64_t folder) {
        if (folder >= 0 && folders_.insert(folder).second) open_.push_back(folder);
    }

    void read_children() {
        Rows q(db_, "SELECT folder, id FROM entries WHERE is_dir = 1", {});
        while (q.next()) children_[q.number(0)].push_back(q.number(1));
    }

    void add_below() {
        while (!open_.empty()) {
            const auto folder = open_.back();
            open_.pop_back();
            const auto it = children_.find(folder);
            if (it == children_.end()) continue;
            for (const auto child : it->second) take(child);
        }
    }

    /// What is in a bin is shown where it was before.
    void add_from_bins() {
        Rows q(db_,
               "SELECT id, is_dir, coalesce(volume, 0), first_path FROM entries WHERE first_path IS NOT NULL",
               {});
        std::set<std::pair<std::int64_t, std::string>> places;
        bool read = false;
        std::string path;
        while (q.next()) {
            if (!read) places = read_places();
            read = true;
            q.text(3, path);
            std::size_t depth = 0;
            for (auto folder = folder_in(path); !folder.empty() && depth < bound::folder_depth;
                 folder = folder_in(folder), ++depth) {
                if (!places.contains({q.number(2), std::string(folder)})) continue;
                add_id(entries_, q.number(0));
                if (q.number(1)) take(q.number(0));
                break;
            }
        }
    }

    std::set<std::pair<std::int64_t, std::string>> read_places() {
        std::set<std::pair<std::int64_t, std::string>> out;
        Rows q(db_, "SELECT id, volume, path FROM folders", {});
        std::string path;
        while (q.next()) {
            if (!folders_.contains(q.number(0))) continue;
            q.text(2, path);
            out.emplace(q.number(1), path);
        }
        return out;
    }

    SQLite::Database& db_;
    std::set<std::int64_t> folders_;
    std::vector<std::int64_t> open_;
    std::unordered_map<std::int64_t, std::vector<std::int64_t>> children_;
    IdSet entries_;
};

std::string and_where(const SqlClause& where, const char* joint) {
    return where.text.empty() ? std::string() : joint + where.text;
}

}  // namespace

SqlClause Shelf::condition_of(const Selection& selection) const {
    if (selection.unread) *unread_ = unreadable();
    auto with_moved = selection;
    add_moved_folders(with_moved, with_moved.under);
    add_moved_folders(with_moved, with_moved.not_under);
    return where_clause(with_moved,
                        selection.ids.empty() ? Beyond() : InFolders(*db_, selection.ids).take_all());
}

/// A folder that is asked for may be, or lie in, one that was moved: what is in it now counts.
void Shelf::add_moved_folders(const Selection& selection, std::vector<std::string>& paths) const {
    if (paths.empty()) return;
    const auto as_compared = [&](std::string_view path) {
        return selection.match_case ? composed(path) : folded(path);
    };
    std::vector<std::string> asked;
    for (const auto& path : paths) asked.push_back(as_compared(path));
    SQLite::Statement q(*db_,
                        "SELECT f.path, e.earlier_names FROM entries e JOIN folders f ON f.id = e.id WHERE "
                        "e.is_dir = 1 AND e.earlier_names IS NOT NULL");
    std::set<std::string> more;
    while (more.size() < most_moved_folders && q.executeStep()) {
        const auto now = q.getColumn(0).getString();
        for (const auto& name : unpack_earlier_names(q.getColumn(1).getText())) {
            const auto before = as_compared(name);
            for (const auto& path : asked) {
                if (is_within(before, path)) more.insert(now);
                if (is_within(path, before)) more.insert(now + path.substr(before.size()));
            }
        }
    }
    paths.insert(paths.end(), more.begin(), more.end());
}

void Shelf::for_each(const Selection& selection, const std::vector<SortKey>& order,
                     const std::function<bool(const ShelfEntry&)>& visit, With with) const {
    const auto where = condition_of(selection);
    Rows rows(*db_,
              fmt::format("SELECT {} FROM {}{}{}", entry_columns(*db_, with), entry_tables,
                          and_where(where, " WHERE "), order_clause(order)),
              where.values);
    ShelfEntry entry;
    while (rows.next()) {
        read_entry(rows, path_, entry, with);
        if (!visit(entry)) return;
    }
}

void Shelf::for_each_called(const std::vector<std::string>& like,
                            const std::function<bool(const ShelfEntry&)>& visit) const {
    std::string where;
    std::vector<SqlValue> values;
    for (const auto& pattern : like) {
        where += where.empty() ? "e.name LIKE ?" : " OR e.name LIKE ?";
        values.emplace_back(pattern);
    }
    Rows rows(*db_, fmt::format("SELECT {} FROM {} WHERE {}", entry_columns(*db_), entry_tables, where),
              values);
    ShelfEntry entry;
    while (rows.next()) {
        read_entry(rows, path_, entry);
        if (!visit(entry)) return;
    }
}

std::optional<ShelfEntry> Shelf::entry(std::int64_t id) const {
    Rows rows(*db_,
              fmt::format("SELECT {} FROM {} WHERE e.id = ?", entry_columns(*db_, With::all), entry_tables),
              {id});
    if (!rows.next()) return std::nullopt;
    ShelfEntry out;
    read_entry(rows, path_, out, With::all);
    return out;
}

std::uint64_t Shelf::count_where(const std::string& first, const Selection& selection) const {
    const auto where = condition_of(selection);
    // Counting everything needs no other table.
    Rows rows(*db_,
              where.text.empty() ? fmt::format("SELECT count(*) FROM entries e WHERE {}", first)
                                 : fmt::format("SELECT count(*) FROM {} WHERE {}{}", entry_tables, first,
                                               and_where(where, " AND ")),
              where.values);
    rows.next();
    return static_cast<std::uint64_t>(rows.number(0));
}

std::uint64_t Shelf::count(const Selection& selection) const {
    return count_where("1", selection);
}

Shelf::Sum Shelf::sum(const Selection& selection) const {
    const auto where = condition_of(selection);
    Rows rows(*db_,
              fmt::format("SELECT e.is_dir, e.grade * (e.rated = 1), e.size FROM {}{}", entry_tables,
                          and_where(where, " WHERE ")),
              where.values);
    Sum out;
    while (rows.next()) {
        if (rows.number(0)) {
            ++out.folders;
            continue;
        }
        ++out.files;
        out.bytes =
            saturating_add(out.bytes, static_cast<std::uint64_t>(std::max<std::int64_t>(rows.number(2), 0)));
        const auto grade = rows.number(1);
        if (grade >= 0 && grade < static_cast<std::int64_t>(out.by_grade.size()))
            ++out.by_grade[static_cast<std::size_t>(grade)];
    }
    return out;
}

Shelf::NotEntries Shelf::not_entries(const IdSet& ids, std::size_t most_told) const {
    Selection chosen;
    chosen.ids = ids;
    const auto where = where_clause(chosen);
    Rows rows(*db_, "SELECT e.id FROM entries e WHERE " + where.text + " ORDER BY e.id", where.values);
    NotEntries out;
    out.numbers = ids.bytes();
    auto range = ids.ranges().begin();
    std::uint64_t next = ids.empty() ? 0 : range->offset;
    // Numbers between one entry and the next belong to no entry.
    const auto tell_up_to = [&](std::uint64_t id) {
        while (range != ids.ranges().end() && out.first.size() < most_told && next < id) {
            if (next < range->end()) out.first.push_back(next++);
            if (next >= range->end() && ++range != ids.ranges().end()) next = range->offset;
        }
    };
    while (rows.next()) {
        const auto id = static_cast<std::uint64_t>(rows.number(0));
        --out.numbers;
        tell_up_to(id);
        if (next == id && range != ids.ranges().end() && ++next >= range->end() &&
            ++range != ids.ranges().end())
            next = range->offset;
    }
    tell_up_to(UINT64_MAX);
    return out;
}

Shelf::LeftOut Shelf::left_out(const Selection& selection) const {
    LeftOut out;
    auto with = selection;
    if (selection.no_helpers && !selection.marked) {
        with.no_helpers = false;
        out.helpers = count_where("e.helper = 1 AND e.is_dir = 0", with);
        with.no_helpers = true;
    }
    if (selection.hide_copies) {
        with.hide_copies = false;
        out.copies = count(with) - count(selection);
        with.hide_copies = true;
    }
    const bool asks_for_gone =
        std::any_of(selection.grades.begin(), selection.grades.end(), [](const GradeChoice& g) {
            return g.grade == Grade::gone || (g.or_better && g.grade == Grade::none);
        });
    if (!selection.grades.empty() && !asks_for_gone) {
        with.grades.clear();
        out.gone = count_where(
            fmt::format("e.grade = {} AND e.rated = 1 AND e.is_dir = 0", static_cast<int>(Grade::gone)),
            with);
    }
    return out;
}

}  // namespace undershelf
