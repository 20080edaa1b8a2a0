#include "shelf/exported.hpp"

#include <SQLiteCpp/SQLiteCpp.h>

#include <algorithm>

#include "base/print.hpp"
#include "shelf/blobs.hpp"

namespace undershelf {

namespace {

/// What a content of this length in these pieces is known by.
std::int64_t layout_print(std::int64_t size, Bytes pieces) {
    return static_cast<std::int64_t>(Print().add(static_cast<std::uint64_t>(size)).add(pieces).value());
}

constexpr const char* size_and_pieces =
    "SELECT e.size, c.pieces, coalesce(e.revision, 0) FROM entries e LEFT JOIN contents c ON c.entry = e.id "
    "WHERE e.id = ?";

/// The last that was exported of an entry.
struct Last {
    std::int64_t entry = 0, revision = 0, layout = 0;
};

std::vector<Last> last_exported(SQLite::Database& db) {
    std::vector<Last> out;
    SQLite::Statement q(db, "SELECT entry, revision, layout FROM exported ORDER BY entry, revision");
    while (q.executeStep()) {
        const Last row{q.getColumn(0).getInt64(),
                       std::clamp<std::int64_t>(q.getColumn(1).getInt64(), 0, highest_revision),
                       q.getColumn(2).getInt64()};
        if (!out.empty() && out.back().entry == row.entry) out.pop_back();
        out.push_back(row);
    }
    return out;
}

}  // namespace

void remember_exported(SQLite::Database& db, std::int64_t job, const std::vector<ExportedRevision>& entries) {
    SQLite::Statement q(db, size_and_pieces);
    SQLite::Statement add(db, "INSERT OR REPLACE INTO exported VALUES(?,?,?,?)");
    for (const auto& e : entries) {
        q.reset();
        q.bind(1, e.entry);
        if (!q.executeStep()) continue;
        add.reset();
        add.bind(1, e.entry);
        add.bind(2, job);
        add.bind(3, e.revision);
        add.bind(4, layout_print(q.getColumn(0).getInt64(), blob_in(q, 1)));
        add.exec();
    }
}

void settle_exported(SQLite::Database& db) {
    const auto exported = last_exported(db);
    SQLite::Statement q(db, size_and_pieces);
    SQLite::Statement set(db, "UPDATE entries SET revision = ? WHERE id = ?");
    for (const auto& last : exported) {
        q.reset();
        q.bind(1, last.entry);
        if (!q.executeStep()) continue;
        const bool same = layout_print(q.getColumn(0).getInt64(), blob_in(q, 1)) == last.layout;
        const auto present = q.getColumn(2).getInt64();
        // One that is read again comes without its revision.
        const auto revision = same ? last.revision : std::max(present, last.revision + 1);
        if (revision == present) continue;
        set.reset();
        set.bind(1, revision);
        set.bind(2, last.entry);
        set.exec();
    }
}

}  // namespace undershelf
