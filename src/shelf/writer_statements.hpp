#pragma once
// The statements that run for every row, prepared once; for the writer's own files alone.

#include "shelf/writer.hpp"

namespace undershelf {

struct ShelfWriter::Statements {
    SQLite::Statement entry, content, folder, in_use, come_back;
    explicit Statements(SQLite::Database& db)
        : entry(db,
                "INSERT INTO entries VALUES(?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,"
                "NULL,NULL,NULL,NULL,NULL,NULL,?,?,?,?,?,NULL,NULL,NULL,NULL,NULL)"),
          content(db, "INSERT INTO contents VALUES(?,?,?)"),
          folder(db, "INSERT OR REPLACE INTO folders VALUES(?,?,?)"),
          in_use(db, "INSERT INTO in_use VALUES(?,?,?)"),
          come_back(db, "DELETE FROM set_aside WHERE id = ?") {}
};

/// Into a new table temp.twice: entries that turn out to be others, and which.
void make_twice(SQLite::Database& db);
/// The marks of entries that turn out to be others go to these, with what is known of their exports; those of
/// what is no other any more go away.
/// `pairs`: a table of `old` and `new`.
void hand_marks_on(SQLite::Database& db, const std::string& pairs);
/// Sets aside what is in temp.twice, hands its marks on, and drops the table.
void set_aside_twice(SQLite::Database& db);

}  // namespace undershelf
