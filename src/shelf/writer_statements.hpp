#pragma once
// The statements that run for every row, prepared once; for the writer's own files alone.

#include "shelf/writer.hpp"

namespace undershelf {

struct ShelfWriter::Statements {
    SQLite::Statement entry, content, folder, in_use, come_back;
    explicit Statements(SQLite::Database& db)
        : entry(db,
                "INSERT INTO entries VALUES(?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,"
                "NULL,NULL,NULL,NULL,NULL,NULL)"),
          content(db, "INSERT INTO contents VALUES(?,?,?)"),
          folder(db, "INSERT OR REPLACE INTO folders VALUES(?,?,?)"),
          in_use(db, "INSERT INTO in_use VALUES(?,?,?)"),
          come_back(db, "DELETE FROM set_aside WHERE id = ?") {}
};

}  // namespace undershelf
