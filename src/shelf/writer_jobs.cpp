// The part of the writer that is about scans and other work as a whole.

#include "base/timestamp.hpp"
#include "shelf/exported.hpp"
#include "shelf/folder_tree.hpp"
#include "shelf/writer.hpp"

namespace undershelf {

void ShelfWriter::begin_scan(Reach reach, const CommandLine& command) {
    db_->exec("UPDATE scans SET state='interrupted' WHERE state='running'");
    SQLite::Statement s(
        *db_, "INSERT INTO scans(reach, started, version, options, state) VALUES(?,?,?,?,'running')");
    s.bind(1, std::string(word(reach)));
    s.bind(2, iso8601(now_utc()));
    bind_command(s, 3, command);
    s.exec();
    scan_ = db_->getLastInsertRowid();
    FolderTree::drop(*db_);
    commit();
}

void ShelfWriter::end_scan(const std::string& state) {
    settle_exported(*db_);
    FolderTree(*db_, path_).keep_in(*db_);
    SQLite::Statement s(*db_, "UPDATE scans SET ended=?, state=? WHERE id=?");
    s.bind(1, iso8601(now_utc()));
    s.bind(2, state);
    s.bind(3, scan_);
    s.exec();
    commit();
}

std::int64_t ShelfWriter::begin_job(Work work, const Selection& selection, const CommandLine& command) {
    FolderTree::drop(*db_);
    return undershelf::begin_job(*db_, work, selection, command);
}

void ShelfWriter::end_job(std::int64_t job, const std::string& state) {
    settle_exported(*db_);
    FolderTree(*db_, path_).keep_in(*db_);
    undershelf::end_job(*db_, job, state);
}

void ShelfWriter::set_sweep_estimate(double seconds) {
    SQLite::Statement s(*db_, "UPDATE scans SET sweep_seconds = ? WHERE id = ?");
    s.bind(1, seconds);
    s.bind(2, scan_);
    s.exec();
}

}  // namespace undershelf
