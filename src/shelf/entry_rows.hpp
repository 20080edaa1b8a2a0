#pragma once
// Rows of listed entries, read without a copy of each column, and held against what a shelf can say.

#include <SQLiteCpp/SQLiteCpp.h>
#include <sqlite3.h>

#include <string>
#include <vector>

#include "shelf/selection.hpp"
#include "shelf/shelf.hpp"
#include "shelf/sql_functions.hpp"

namespace undershelf {

/// Columns of a listed entry, in the order in which `read_entry` takes them; for With::all with what few ask
/// for.
std::string entry_columns(SQLite::Database& db, With with = With::most);
/// What a line of a tree says of a file, in the order in which `read_line` takes them.
inline constexpr const char* line_columns =
    "e.id, e.name, e.stream, e.first_path, e.size, e.grade, e.chance, e.origin, e.rated, e.link";
inline constexpr int line_column_count = 10;
inline constexpr const char* entry_tables =
    "entries e LEFT JOIN folders f ON f.id = e.folder LEFT JOIN marks m ON m.entry = e.id";

/// A prepared statement read column by column without a copy each, for listings of millions of rows.
class Rows {
  public:
    Rows(SQLite::Database& db, const std::string& sql, const std::vector<SqlValue>& values)
        : db_(db), values_(values) {
        if (sqlite3_prepare_v2(db.getHandle(), sql.c_str(), -1, &statement_, nullptr) != SQLITE_OK)
            throw SQLite::Exception(db.getHandle());
        int index = 0;
        for (const auto& value : values_) {
            ++index;
            if (const auto* number = std::get_if<std::int64_t>(&value)) {
                sqlite3_bind_int64(statement_, index, *number);
            } else if (const auto* text = std::get_if<std::string>(&value)) {
                sqlite3_bind_text(statement_, index, text->data(), static_cast<int>(text->size()),
                                  SQLITE_STATIC);
            } else {
                // A function gets the pointer and changes nothing.
                const auto& pointer = std::get<SqlPointer>(value);
                sqlite3_bind_pointer(statement_, index, const_cast<void*>(pointer.object.get()), pointer.type,
                                     nullptr);
            }
        }
    }
    ~Rows() { sqlite3_finalize(statement_); }
    Rows(const Rows&) = delete;
    Rows& operator=(const Rows&) = delete;

    bool next() {
        const int result = sqlite3_step(statement_);
        if (result == SQLITE_ROW) return true;
        if (result != SQLITE_DONE) throw SQLite::Exception(db_.getHandle());
        return false;
    }
    bool null(int c) const { return sqlite3_column_type(statement_, c) == SQLITE_NULL; }
    std::int64_t number(int c) const { return sqlite3_column_int64(statement_, c); }
    double real(int c) const { return sqlite3_column_double(statement_, c); }
    void text(int c, std::string& out) const {
        const auto* t = reinterpret_cast<const char*>(sqlite3_column_text(statement_, c));
        out.assign(t ? t : "", static_cast<std::size_t>(sqlite3_column_bytes(statement_, c)));
    }

  private:
    SQLite::Database& db_;
    const std::vector<SqlValue> values_;  ///< outlive the statement that refers to them
    sqlite3_stmt* statement_ = nullptr;
};

/// Reads the row of `entry_columns` that is at hand. Throws Error(input) when it says what no shelf can, with
/// the shelf's path.
void read_entry(const Rows& row, const std::string& path, ShelfEntry& entry, With with = With::most);
/// The same for `line_columns`; what they do not say of the entry is left as it is.
void read_line(const Rows& row, const std::string& path, ShelfEntry& entry);

}  // namespace undershelf
