#pragma once
// Rows of listed entries, read without a copy of each column, and held against what a shelf can say.

#include <SQLiteCpp/SQLiteCpp.h>
#include <sqlite3.h>

#include <string>
#include <vector>

#include "shelf/selection.hpp"
#include "shelf/shelf.hpp"

namespace undershelf {

/// Columns of a listed entry, in the order in which `read_entry` takes them.
inline constexpr const char* entry_columns =
    "e.id, e.volume, e.folder, e.origin, e.name, e.stream, e.name_certainty, e.is_dir, e.system, e.binned, "
    "e.first_path, "
    "e.kind, e.ext, e.size, e.grade, e.chance, e.share_left, e.layout, e.created, e.modified, e.accessed, "
    "e.deleted, e.zones, "
    "e.attributes, f.path, m.entry, e.dates, e.format, e.checked, e.complete, e.holds_to, e.proven_to, "
    "e.revision, e.helper, e.earlier_names, e.link, e.rated";
inline constexpr const char* entry_tables =
    "entries e LEFT JOIN folders f ON f.id = e.folder LEFT JOIN marks m ON m.entry = e.id";

/// A prepared statement read column by column without a copy each, for listings of millions of rows.
class Rows {
  public:
    Rows(SQLite::Database& db, const std::string& sql, const std::vector<SqlValue>& values) : db_(db) {
        if (sqlite3_prepare_v2(db.getHandle(), sql.c_str(), -1, &statement_, nullptr) != SQLITE_OK)
            throw SQLite::Exception(db.getHandle());
        int index = 0;
        for (const auto& value : values) {
            ++index;
            if (const auto* number = std::get_if<std::int64_t>(&value)) {
                sqlite3_bind_int64(statement_, index, *number);
            } else {
                const auto& text = std::get<std::string>(value);
                sqlite3_bind_text(statement_, index, text.data(), static_cast<int>(text.size()),
                                  SQLITE_TRANSIENT);
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
    sqlite3_stmt* statement_ = nullptr;
};

/// Reads the row of `entry_columns` that is at hand. Throws Error(input) when it says what no shelf can, with
/// the shelf's path.
void read_entry(const Rows& row, const std::string& path, ShelfEntry& entry);

}  // namespace undershelf
