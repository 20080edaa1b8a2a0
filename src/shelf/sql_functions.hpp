#pragma once
// What selections ask of names, paths and contents, as functions of SQL.

#include <SQLiteCpp/SQLiteCpp.h>

#include "base/byte_range.hpp"

namespace undershelf {

/// Adds the functions that selections need: fold, name_fits, name_fits_folded, path_within, and
/// touches_unreadable, of a content's packed pieces; `unreadable` must live as long as `db`.
void add_sql_functions(SQLite::Database& db, RangeSet& unreadable);

}  // namespace undershelf
