#pragma once
// What selections ask of names and paths, as functions of SQL.

#include <SQLiteCpp/SQLiteCpp.h>

namespace undershelf {

/// Adds the functions that selections need: fold, name_fits, name_fits_folded, path_within.
void add_text_functions(SQLite::Database& db);

}  // namespace undershelf
