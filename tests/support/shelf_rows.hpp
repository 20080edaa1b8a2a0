#pragma once
// All rows of a shelf as text, for comparing shelves.

#include <SQLiteCpp/SQLiteCpp.h>

#include <string>
#include <vector>

namespace undershelf::test {

/// The rows of the tables that two scans of one source must have alike: all but `scans` and `jobs`, which say
/// when, and how long a search would take. `left_out`: columns,
/// as `table.column`, that are not compared.
inline std::vector<std::string> shelf_rows(const std::string& path,
                                           const std::vector<std::string>& left_out = {}) {
    SQLite::Database db(path, SQLite::OPEN_READONLY);
    std::vector<std::string> out;
    SQLite::Statement tables(db, "SELECT name FROM sqlite_master WHERE type = 'table' ORDER BY name");
    while (tables.executeStep()) {
        const auto table = tables.getColumn(0).getString();
        if (table == "scans" || table == "jobs" || table.starts_with("sqlite_")) continue;
        SQLite::Statement rows(db, "SELECT * FROM " + table);
        while (rows.executeStep()) {
            std::string row = table;
            for (int i = 0; i < rows.getColumnCount(); ++i) {
                const auto column = table + "." + rows.getColumnName(i);
                if (std::find(left_out.begin(), left_out.end(), column) != left_out.end()) continue;
                row += "|" + rows.getColumn(i).getString();
            }
            if (!row.starts_with("settings|content seconds|")) out.push_back(std::move(row));
        }
    }
    std::sort(out.begin(), out.end());
    return out;
}

}  // namespace undershelf::test
