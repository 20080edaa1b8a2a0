#include "shelf/jobs.hpp"

#include <SQLiteCpp/SQLiteCpp.h>
#include <fmt/format.h>

#include <array>
#include <chrono>

#include "base/printable.hpp"
#include "base/timestamp.hpp"
#include "shelf/database.hpp"
#include "shelf/selection_text.hpp"

namespace undershelf {

namespace {

constexpr std::array words{"check", "mark", "export"};

std::optional<Work> work_of(const std::string& word) {
    for (std::size_t i = 0; i < words.size(); ++i) {
        if (word == words[i]) return static_cast<Work>(i);
    }
    return std::nullopt;
}

int version_of(SQLite::Database& db) {
    return db.execAndGet("PRAGMA user_version").getInt();
}

/// Nobody waits longer for a note.
constexpr std::chrono::seconds longest_wait{8};

/// Shelves of before this version have no place for the command and for what it exported.
constexpr int knows_commands = 8;

/// What is read of an earlier version's table is a view, and of one without it a table that goes again.
const char* place_of_jobs(SQLite::Database& db) {
    constexpr int has_jobs = 6;
    const int version = version_of(db);
    return version < has_jobs || version >= knows_commands ? "" : "main.";
}

/// A list in JSON. Written by hand: the library's values take memory even while they go away.
std::string list_of(const std::vector<std::string>& items) {
    std::string out = "[";
    for (const auto& item : items) {
        if (out.size() > 1) out += ',';
        append_json_text(out, item);
    }
    return out += ']';
}

}  // namespace

const char* word(Work work) {
    return words.at(static_cast<std::size_t>(work));
}

void bind_command(SQLite::Statement& s, int first, const CommandLine& command) {
    if (command.version.empty()) return;
    s.bind(first, command.version);
    s.bind(first + 1, list_of(command.arguments));
}

CommandRecord command_in(SQLite::Statement& q, int first) {
    CommandRecord out;
    const auto text = [&](int column) {
        return q.isColumnNull(column) ? std::string() : q.getColumn(column).getString();
    };
    out.version = text(first);
    out.arguments = text(first + 1);
    if (!q.isColumnNull(first + 2)) out.exit = q.getColumn(first + 2).getInt();
    return out;
}

void note_exit(const std::string& shelf, const CommandLine& command, const std::string& began, int status) {
    try {
        const auto db = open_shelf_to_mark(shelf);
        if (version_of(*db) < knows_commands) return;
        wait_for_a_moment(*db, longest_wait);
        for (const char* table : {"scans", "jobs"}) {
            // Who has written nothing has nothing to wait for.
            SQLite::Statement q(
                *db, fmt::format("SELECT max(id) FROM {} WHERE options = ? AND started >= ? AND exit "
                                 "IS NULL",
                                 table));
            q.bind(1, list_of(command.arguments));
            q.bind(2, began);
            if (!q.executeStep() || q.isColumnNull(0)) continue;
            const auto row = q.getColumn(0).getInt64();
            q.reset();
            SQLite::Statement s(*db, fmt::format("UPDATE {} SET exit = ? WHERE id = ?", table));
            s.bind(1, status);
            s.bind(2, row);
            s.exec();
        }
    } catch (const SQLite::Exception&) {
        // It stays unknown, as of a command that was cut off.
    } catch (const Error&) {
        // The same.
    }
}

std::vector<JobRecord> read_jobs(SQLite::Database& db) {
    std::vector<JobRecord> out;
    SQLite::Statement q(
        db,
        "SELECT id, what, selection, folder, after_scan, started, coalesce(ended, ''), state, "
        "version, options, exit FROM jobs ORDER BY id");
    while (q.executeStep()) {
        const auto work = work_of(q.getColumn(1).getString());
        if (!work) continue;  // what a later program has done
        out.push_back({q.getColumn(0).getInt64(), *work, q.getColumn(2).getString(),
                       q.getColumn(3).getString(), q.getColumn(4).getInt64(), q.getColumn(5).getString(),
                       q.getColumn(6).getString(), q.getColumn(7).getString(), command_in(q, 8)});
    }
    return out;
}

std::int64_t begin_job(SQLite::Database& db, Work work, const Selection& selection,
                       const CommandLine& command, const std::string& folder) {
    // A shelf that is not brought up yet is added to as it is.
    const bool known = version_of(db) >= knows_commands;
    SQLite::Statement s(
        db, fmt::format("INSERT INTO {}jobs(what, selection, folder, after_scan, started, state{}) "
                        "VALUES(?,?,?,(SELECT count(*) FROM scans),?,'running'{})",
                        place_of_jobs(db), known ? ", version, options" : "", known ? ",?,?" : ""));
    s.bind(1, word(work));
    s.bind(2, selection_text(selection));
    s.bind(3, folder);
    s.bind(4, iso8601(now_utc()));
    if (known) bind_command(s, 5, command);
    s.exec();
    return db.getLastInsertRowid();
}

void end_job(SQLite::Database& db, std::int64_t job, const std::string& state) {
    SQLite::Statement s(
        db, fmt::format("UPDATE {}jobs SET ended = ?, state = ? WHERE id = ?", place_of_jobs(db)));
    s.bind(1, iso8601(now_utc()));
    s.bind(2, state);
    s.bind(3, job);
    s.exec();
}

JobNote::JobNote(const std::string& shelf, Work work, const Selection& selection, const CommandLine& command,
                 const std::string& folder)
    : shelf_(shelf) {
    try {
        db_ = open_shelf_to_mark(shelf);
        wait_for_a_moment(*db_, longest_wait);
        job_ = begin_job(*db_, work, selection, command, folder);
    } catch (const SQLite::Exception& e) {
        trouble_ = shelf_error(shelf, e).what();
    } catch (const Error& e) {
        trouble_ = e.what();
    }
    if (!trouble_.empty()) db_.reset();
}

JobNote::~JobNote() {
    if (!ended_) end("failed");
}

void JobNote::end(const std::string& state, const std::vector<ExportedRevision>& exported) {
    ended_ = true;
    if (!db_) return;
    try {
        SQLite::Transaction all(*db_, SQLite::TransactionBehavior::IMMEDIATE);
        if (version_of(*db_) >= knows_commands) {
            remember_exported(*db_, job_, exported);
        } else if (!exported.empty()) {
            trouble_ =
                fmt::format("{} is from an earlier version of this program; a scan brings it up.", shelf_);
        }
        end_job(*db_, job_, state);
        all.commit();
    } catch (const SQLite::Exception& e) {
        trouble_ = shelf_error(shelf_, e).what();
    }
}

}  // namespace undershelf
