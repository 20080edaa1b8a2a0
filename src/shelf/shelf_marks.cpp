// Marks: what a technician keeps of a selection, under a name or without one.

#include <fmt/format.h>

#include "base/error.hpp"
#include "shelf/database.hpp"
#include "shelf/entry_rows.hpp"
#include "shelf/jobs.hpp"
#include "shelf/shelf.hpp"

namespace undershelf {

namespace {

std::uint64_t changed_by(SQLite::Database& db, const std::string& sql, const std::vector<SqlValue>& values) {
    Rows rows(db, sql, values);
    rows.next();
    return static_cast<std::uint64_t>(db.getChanges());
}

}  // namespace

std::uint64_t Shelf::mark(const Selection& selection, bool on, const std::string& name,
                          const CommandLine& command) {
    constexpr int since = 7;  // the version of shelves that has names
    if (!name.empty() && db_->execAndGet("PRAGMA user_version").getInt() < since)
        throw Error(
            Trouble::refused,
            fmt::format("{0} is from an earlier version of this program, and has no named marks. Bring it "
                        "up first: undershelf scan {1} --shelf {0}",
                        path_, source().path));
    wait_for_a_moment(*db_);
    const auto where = condition_of(selection);
    const auto chosen = fmt::format("FROM entries e LEFT JOIN folders f ON f.id = e.folder{}{}",
                                    where.text.empty() ? "" : " WHERE ", where.text);
    try {
        SQLite::Transaction all(*db_);
        const auto changed = on ? add_marks(where, chosen, name) : take_marks(where, chosen, name);
        end_job(*db_, begin_job(*db_, Work::mark, selection, command), "done");
        all.commit();
        return changed;
    } catch (const SQLite::Exception& e) {
        throw shelf_error(path_, e);
    }
}

std::uint64_t Shelf::add_marks(const SqlClause& where, const std::string& chosen, const std::string& name) {
    if (name.empty())
        return changed_by(*db_, "INSERT OR IGNORE INTO marks SELECT e.id " + chosen, where.values);
    auto values = where.values;
    values.insert(values.begin(), name);
    return changed_by(*db_, "INSERT OR IGNORE INTO named_marks SELECT ?, e.id " + chosen, values);
}

/// Without a name all marks go. Counted are entries.
std::uint64_t Shelf::take_marks(const SqlClause& where, const std::string& chosen, const std::string& name) {
    if (!name.empty()) {
        auto values = where.values;
        values.insert(values.begin(), name);
        return changed_by(
            *db_, fmt::format("DELETE FROM named_marks WHERE name = ? AND entry IN (SELECT e.id {})", chosen),
            values);
    }
    // What selects by marks asks for them while they are taken out: so it is asked once, before.
    db_->exec("CREATE TEMP TABLE unmarked(entry INTEGER PRIMARY KEY)");
    changed_by(
        *db_,
        fmt::format("INSERT INTO unmarked SELECT entry FROM (SELECT entry FROM marks UNION SELECT entry "
                    "FROM named_marks) WHERE entry IN (SELECT e.id {})",
                    chosen),
        where.values);
    const auto out = db_->execAndGet("SELECT count(*) FROM unmarked").getInt64();
    db_->exec("DELETE FROM marks WHERE entry IN (SELECT entry FROM unmarked)");
    db_->exec("DELETE FROM named_marks WHERE entry IN (SELECT entry FROM unmarked)");
    db_->exec("DROP TABLE unmarked");
    return static_cast<std::uint64_t>(out);
}

std::vector<std::pair<std::string, std::uint64_t>> Shelf::mark_names() const {
    std::vector<std::pair<std::string, std::uint64_t>> out;
    Rows rows(*db_, "SELECT name, count(*) FROM named_marks GROUP BY name ORDER BY name", {});
    while (rows.next()) {
        std::string name;
        rows.text(0, name);
        out.emplace_back(name, static_cast<std::uint64_t>(rows.number(1)));
    }
    return out;
}

}  // namespace undershelf
