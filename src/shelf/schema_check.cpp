#include "shelf/schema_check.hpp"

#include <fmt/format.h>

#include <cctype>
#include <map>
#include <set>
#include <string_view>

#include "shelf/database.hpp"
#include "shelf/schema.hpp"

namespace undershelf {

namespace {

struct Column {
    std::string type;
    int primary_key = 0;
    int hidden = 0;
    bool operator==(const Column&) const = default;
};
using Columns = std::map<std::string, Column>;

Columns columns_of(SQLite::Database& db, const std::string& table) {
    Columns out;
    SQLite::Statement q(db, "SELECT name, type, pk, hidden FROM pragma_table_xinfo(?)");
    q.bind(1, table);
    while (q.executeStep())
        out[q.getColumn(0).getString()] = {q.getColumn(1).getString(), q.getColumn(2).getInt(),
                                           q.getColumn(3).getInt()};
    return out;
}

/// The tables of a new shelf, each with its columns.
const std::map<std::string, Columns>& present_tables() {
    static const auto all = [] {
        SQLite::Database db(":memory:", SQLite::OPEN_READWRITE | SQLite::OPEN_CREATE);
        db.exec(schema::create);
        db.exec(schema::create_sweep);
        db.exec(schema::create_jobs);
        db.exec(schema::create_looking);
        db.exec(schema::create_exported);
        std::map<std::string, Columns> out;
        SQLite::Statement q(db, "SELECT name FROM sqlite_master WHERE type = 'table'");
        while (q.executeStep()) out[q.getColumn(0).getString()] = columns_of(db, q.getColumn(0).getString());
        return out;
    }();
    return all;
}

/// `table.column` of what later versions added, as the upgrades say: ALTER TABLE table ADD COLUMN column ...
std::set<std::string> added_after(int version) {
    std::set<std::string> out;
    const auto take = [&](std::string_view sql) {
        constexpr std::string_view alter = "ALTER TABLE ", add = " ADD COLUMN ";
        for (auto at = sql.find(alter); at != sql.npos; at = sql.find(alter, at + 1)) {
            const auto table = at + alter.size(), between = sql.find(add, table);
            const auto column = between + add.size();
            out.insert(fmt::format("{}.{}", sql.substr(table, between - table),
                                   sql.substr(column, sql.find(' ', column) - column)));
        }
    };
    if (version < 2) take(schema::upgrade_from_1);
    if (version < 3) take(schema::upgrade_from_2);
    if (version < 4) take(schema::upgrade_from_3);
    if (version < 5) take(schema::upgrade_from_4);
    if (version < 6) take(schema::upgrade_from_5);
    if (version < 7) take(schema::upgrade_from_6);
    if (version < 8) take(schema::upgrade_from_7);
    if (version < 8) take(schema::upgrade_jobs_from_7);
    return out;
}

/// The tables that a version did not have yet.
bool came_later(const std::string& table, int version) {
    const auto makes = [&](std::string_view sql) {
        return sql.find("CREATE TABLE " + table + "(") != std::string_view::npos;
    };
    return (version < 2 && makes(schema::create_sweep)) || (version < 6 && makes(schema::create_jobs)) ||
           (version < 7 && makes(schema::create_looking)) ||
           (version < 8 && makes(schema::create_exported));
}

/// Is `word` in it, with a parenthesis after it?
bool has_clause(std::string sql, std::string_view word) {
    for (auto& c : sql) c = static_cast<char>(std::toupper(static_cast<unsigned char>(c)));
    for (auto at = sql.find(word); at != sql.npos; at = sql.find(word, at + 1)) {
        const auto next = sql.find_first_not_of(" \t\r\n", at + word.size());
        if (next != sql.npos && sql[next] == '(') return true;
    }
    return false;
}

}  // namespace

void check_schema(SQLite::Database& db, int version, const std::string& path) {
    std::set<std::string> there;
    SQLite::Statement q(db, "SELECT type, name, coalesce(sql, '') FROM sqlite_master");
    while (q.executeStep()) {
        const auto type = q.getColumn(0).getString(), name = q.getColumn(1).getString();
        const auto sql = q.getColumn(2).getString();
        if (type == "index" && sql.empty()) continue;       // SQLite's own
        if (type == "view" && name == "listing") continue;  // for people; nothing here asks it
        if (type != "table" || !present_tables().count(name))
            damaged_shelf(path,
                          fmt::format("it has the {} `{}`, which no shelf has", type, name.substr(0, 60)));
        if (has_clause(sql, "CHECK") || has_clause(sql, "AS") || has_clause(sql, "DEFAULT") ||
            sql.find("CREATE TABLE") != 0)
            damaged_shelf(path, fmt::format("its table `{}` is not made as that of a shelf", name));
        there.insert(name);
    }
    const auto added = added_after(version);
    for (const auto& [name, expected] : present_tables()) {
        if (!there.count(name)) {
            if (came_later(name, version)) continue;
            damaged_shelf(path, fmt::format("it has no table `{}`", name));
        }
        auto columns = columns_of(db, name);
        for (const auto& [column, as] : expected) {
            const auto it = columns.find(column);
            if (it == columns.end() && added.count(name + "." + column)) continue;
            if (it == columns.end() || !(it->second == as))
                damaged_shelf(path, fmt::format("its table `{}` does not have the column `{}` of a shelf",
                                                name, column));
            columns.erase(it);
        }
        if (!columns.empty())
            damaged_shelf(path, fmt::format("its table `{}` has the column `{}`, which no shelf has", name,
                                            columns.begin()->first.substr(0, 60)));
    }
}

}  // namespace undershelf
