#pragma once
// What selections ask of names, paths and contents, as functions of SQL.

#include <SQLiteCpp/SQLiteCpp.h>

#include "base/byte_range.hpp"

namespace undershelf {

/// Of the sets that are bound to a query: sqlite3_bind_pointer().
inline constexpr const char* set_type = "undershelf set";

/// Adds the functions that selections need: fold, name_fits, in_set, path_within, was_within, shown_name,
/// shown_folder, and touches_unreadable, of a content's packed pieces; `unreadable` must live as long as
/// `db`.
void add_sql_functions(SQLite::Database& db, RangeSet& unreadable);

}  // namespace undershelf
