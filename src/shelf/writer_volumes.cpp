// The part of the writer that is about volumes: present ones as they are found, former ones as they are
// settled.

#include <algorithm>

#include "shelf/sql_words.hpp"
#include "shelf/writer_statements.hpp"

namespace undershelf {

void ShelfWriter::set_volumes(const std::vector<Volume>& volumes) {
    SQLite::Statement s(*db_, "INSERT INTO volumes VALUES(?,?,?,?,?,?,?,?,?,?,?,?,?,'waiting',?,?,?,0)");
    for (const auto& v : volumes) {
        s.reset();
        int i = 0;
        s.bind(++i, v.number);
        s.bind(++i, v.family);
        s.bind(++i, v.file_system);
        s.bind(++i, static_cast<std::int64_t>(v.offset));
        s.bind(++i, static_cast<std::int64_t>(v.size));
        s.bind(++i, v.cluster_size);
        s.bind(++i, v.label);
        s.bind(++i, v.serial);
        s.bind(++i, v.state == VolumeState::present ? "present" : "former");
        s.bind(++i, v.found_by);
        s.bind(++i, v.support);
        s.bind(++i, static_cast<std::int64_t>(v.head_offset));
        s.bind(++i, v.readable ? 1 : 0);
        s.bind(++i, static_cast<std::int64_t>(v.grid_start));
        s.bind(++i, v.geometry);
        s.bind(++i, v.votes);
        s.exec();
    }
    commit();
}

void ShelfWriter::set_grid_start(const Volume& v) {
    SQLite::Statement s(
        *db_,
        "UPDATE volumes SET grid_start = ? WHERE family = ? AND offset = ? AND cluster_size = "
        "? AND state = 'present' AND grid_start = 0");
    s.bind(1, static_cast<std::int64_t>(v.grid_start));
    s.bind(2, v.family);
    s.bind(3, static_cast<std::int64_t>(v.offset));
    s.bind(4, v.cluster_size);
    s.exec();
}

std::string ShelfWriter::volume_progress(int number) const {
    SQLite::Statement q(*db_, "SELECT progress FROM volumes WHERE number = ?");
    q.bind(1, number);
    return q.executeStep() ? q.getColumn(0).getString() : std::string();
}

void ShelfWriter::set_volume_progress(int number, const std::string& progress) {
    SQLite::Statement s(*db_, "UPDATE volumes SET progress = ? WHERE number = ?");
    s.bind(1, progress);
    s.bind(2, number);
    s.exec();
    commit();
}

void ShelfWriter::clear_volume(int number) {
    // Ids are given in the order of reading, which is always the same, so the entries come back under their
    // old ids.
    SQLite::Statement first(*db_,
                            worded("SELECT min(id) FROM entries WHERE volume = ? AND origin <> #unnamed"));
    first.bind(1, number);
    if (first.executeStep() && !first.getColumn(0).isNull()) next_id_ = first.getColumn(0).getInt64();
    for (const char* sql : {"DELETE FROM contents WHERE entry IN (SELECT id FROM entries WHERE volume = ? "
                            "AND origin <> #unnamed)",
                            "DELETE FROM entries WHERE volume = ? AND origin <> #unnamed",
                            "DELETE FROM folders WHERE volume = ?", "DELETE FROM in_use WHERE volume = ?",
                            "DELETE FROM diagnostics WHERE volume = ?"}) {
        SQLite::Statement s(*db_, worded(sql));
        s.bind(1, number);
        s.exec();
    }
}

std::vector<Volume> ShelfWriter::settle_volumes(std::vector<Volume> settled) {
    SQLite::Statement find(*db_,
                           "SELECT number FROM volumes WHERE family = ? AND grid_start = ? AND cluster_size "
                           "= ? AND state = ?");
    SQLite::Statement update(*db_,
                             "UPDATE volumes SET file_system = ?, offset = ?, size = ?, label = ?, serial = "
                             "?, found_by = ?, support = ?, geometry = ?, votes = ?, withdrawn = 0 WHERE "
                             "number = ?");
    int next = db_->execAndGet("SELECT coalesce(max(number), 0) FROM volumes").getInt();
    std::vector<Volume> fresh;
    std::vector<int> kept;
    for (auto& v : settled) {
        find.reset();
        find.bind(1, v.family);
        find.bind(2, static_cast<std::int64_t>(v.grid_start));
        find.bind(3, v.cluster_size);
        find.bind(4, v.state == VolumeState::present ? "present" : "former");
        const bool known = find.executeStep();
        v.number = known ? find.getColumn(0).getInt() : std::max(next + 1, v.number);
        find.reset();
        kept.push_back(v.number);
        if (!known) {
            next = v.number;
            fresh.push_back(v);
            continue;
        }
        update.reset();
        int i = 0;
        update.bind(++i, v.file_system);
        update.bind(++i, static_cast<std::int64_t>(v.offset));
        update.bind(++i, static_cast<std::int64_t>(v.size));
        update.bind(++i, v.label);
        update.bind(++i, v.serial);
        update.bind(++i, v.found_by);
        update.bind(++i, v.support);
        update.bind(++i, v.geometry);
        update.bind(++i, v.votes);
        update.bind(++i, v.number);
        update.exec();
    }
    SQLite::Statement q(*db_, "SELECT number FROM volumes WHERE state = 'former' AND withdrawn = 0");
    std::vector<int> gone;
    while (q.executeStep()) {
        const int number = q.getColumn(0).getInt();
        if (std::find(kept.begin(), kept.end(), number) == kept.end()) gone.push_back(number);
    }
    q.reset();
    for (const int number : gone) withdraw_volume(number);
    set_volumes(fresh);
    return settled;
}

void ShelfWriter::withdraw_volume(int number) {
    SQLite::Statement s(*db_, "UPDATE volumes SET withdrawn = 1 WHERE number = ?");
    s.bind(1, number);
    s.exec();
}

std::int64_t ShelfWriter::newest_date(int volume) const {
    SQLite::Statement q(
        *db_, worded("SELECT max(max(coalesce(created, modified), coalesce(modified, created))) FROM entries "
                     "WHERE volume = ? AND origin <> #unnamed"));
    q.bind(1, volume);
    return q.executeStep() && !q.getColumn(0).isNull() ? q.getColumn(0).getInt64()
                                                       : std::numeric_limits<std::int64_t>::min();
}

}  // namespace undershelf
