#pragma once
// A shelf from elsewhere is input: before anything is asked of it, its tables are held against those that a
// shelf of its version has.

#include <SQLiteCpp/SQLiteCpp.h>

#include <string>

namespace undershelf {

/// Throws Error(input) when a table or a column is missing, is of another kind, or is there beside them; when
/// there are triggers, views other than `listing`, indexes of somebody's, columns that are worked out, or
/// conditions on them. So nothing in the file is run, and every query costs what its rows cost.
void check_schema(SQLite::Database& db, int version, const std::string& path);

}  // namespace undershelf
