#include "shelf/jobs.hpp"

#include <SQLiteCpp/SQLiteCpp.h>

#include <array>
#include <nlohmann/json.hpp>

#include "base/timestamp.hpp"
#include "shelf/database.hpp"
#include "shelf/selection_json.hpp"

namespace undershelf {

namespace {

constexpr std::array words{"check", "mark", "export"};

std::optional<Work> work_of(const std::string& word) {
    for (std::size_t i = 0; i < words.size(); ++i) {
        if (word == words[i]) return static_cast<Work>(i);
    }
    return std::nullopt;
}

}  // namespace

std::vector<JobRecord> read_jobs(SQLite::Database& db) {
    std::vector<JobRecord> out;
    SQLite::Statement q(db,
                        "SELECT id, what, selection, folder, after_scan, started, coalesce(ended, ''), state "
                        "FROM jobs ORDER BY id");
    while (q.executeStep()) {
        const auto work = work_of(q.getColumn(1).getString());
        if (!work) continue;  // what a later program has done
        out.push_back({q.getColumn(0).getInt64(), *work, q.getColumn(2).getString(),
                       q.getColumn(3).getString(), q.getColumn(4).getInt64(), q.getColumn(5).getString(),
                       q.getColumn(6).getString(), q.getColumn(7).getString()});
    }
    return out;
}

std::int64_t begin_job(SQLite::Database& db, Work work, const Selection& selection,
                       const std::string& folder) {
    SQLite::Statement s(db,
                        "INSERT INTO jobs(what, selection, folder, after_scan, started, state) VALUES(?,?,?,"
                        "(SELECT count(*) FROM scans),?,'running')");
    s.bind(1, words.at(static_cast<std::size_t>(work)));
    s.bind(2, selection_json(selection).dump(-1, ' ', false, nlohmann::json::error_handler_t::replace));
    s.bind(3, folder);
    s.bind(4, iso8601(now_utc()));
    s.exec();
    return db.getLastInsertRowid();
}

void end_job(SQLite::Database& db, std::int64_t job, const std::string& state) {
    SQLite::Statement s(db, "UPDATE jobs SET ended = ?, state = ? WHERE id = ?");
    s.bind(1, iso8601(now_utc()));
    s.bind(2, state);
    s.bind(3, job);
    s.exec();
}

JobNote::JobNote(const std::string& shelf, Work work, const Selection& selection, const std::string& folder) {
    try {
        db_ = open_shelf_to_mark(shelf);
        wait_for_a_moment(*db_);
        job_ = begin_job(*db_, work, selection, folder);
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

void JobNote::end(const std::string& state) {
    ended_ = true;
    if (!db_) return;
    try {
        end_job(*db_, job_, state);
    } catch (const SQLite::Exception& e) {
        trouble_ = e.what();
    }
}

}  // namespace undershelf
