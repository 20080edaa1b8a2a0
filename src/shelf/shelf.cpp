#include "shelf/shelf.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <set>

#include "base/error.hpp"
#include "base/text.hpp"
#include "shelf/database.hpp"
#include "shelf/entry_rows.hpp"
#include "shelf/jobs.hpp"
#include "shelf/packing.hpp"
#include "shelf/sql_functions.hpp"

namespace undershelf {

namespace {

/// Of those that a selection asks for; more than anybody has moved.
constexpr std::size_t most_moved_folders = 1000;

void bind_all(SQLite::Statement& query, const std::vector<SqlValue>& values) {
    int index = 0;
    for (const auto& value : values) {
        ++index;
        std::visit([&](const auto& v) { query.bind(index, v); }, value);
    }
}

ByteVector blob_of(SQLite::Statement& query, std::int64_t entry) {
    query.bind(1, entry);
    ByteVector out;
    if (query.executeStep()) {
        const auto column = query.getColumn(0);
        const auto* data = static_cast<const std::uint8_t*>(column.getBlob());
        out.assign(data, data + column.getBytes());
    }
    query.reset();  // else it would hold on to the state of the shelf that it has seen
    return out;
}
ByteVector blob_of(SQLite::Database& db, const char* sql, std::int64_t entry) {
    SQLite::Statement query(db, sql);
    return blob_of(query, entry);
}

}  // namespace

std::int64_t pack_zones(const MaybeTime& created, const MaybeTime& modified, const MaybeTime& accessed,
                        const MaybeTime& deleted) {
    std::int64_t out = 0;
    int shift = 0;
    for (const auto* t : {&created, &modified, &accessed, &deleted}) {
        if (*t && !(*t)->is_local())
            out |= static_cast<std::int64_t>(((*t)->offset_minutes / 15 + 100) & 0xFF) << shift;
        shift += 8;
    }
    return out;
}

std::int16_t unpack_zone(std::int64_t zones, int index) {
    const auto quarter = zones >> 8 * index & 0xFF;
    return quarter == 0 ? Timestamp::local : static_cast<std::int16_t>((quarter - 100) * 15);
}

Shelf::Shelf(const std::string& path, Access access)
    : path_(path), db_(access == Access::read ? open_shelf_to_read(path) : open_shelf_to_mark(path)) {
    add_sql_functions(*db_, *unread_);
}

SqlClause Shelf::condition_of(const Selection& selection) const {
    if (selection.unread) *unread_ = unreadable();
    if (selection.under.empty()) return where_clause(selection);
    auto with_moved = selection;
    add_moved_folders(with_moved);
    return where_clause(with_moved);
}

/// A folder that is asked for may be, or lie in, one that was moved: what is in it now counts.
void Shelf::add_moved_folders(Selection& selection) const {
    const auto as_compared = [&](std::string_view path) {
        return selection.match_case ? composed(path) : folded(path);
    };
    std::vector<std::string> asked;
    for (const auto& path : selection.under) asked.push_back(as_compared(path));
    SQLite::Statement q(*db_,
                        "SELECT f.path, e.earlier_names FROM entries e JOIN folders f ON f.id = e.id WHERE "
                        "e.is_dir = 1 AND e.earlier_names IS NOT NULL");
    std::set<std::string> more;
    while (more.size() < most_moved_folders && q.executeStep()) {
        const auto now = q.getColumn(0).getString();
        for (const auto& name : unpack_earlier_names(q.getColumn(1).getText())) {
            const auto before = as_compared(name);
            for (const auto& path : asked) {
                if (is_within(before, path)) more.insert(now);
                if (is_within(path, before)) more.insert(now + path.substr(before.size()));
            }
        }
    }
    selection.under.insert(selection.under.end(), more.begin(), more.end());
}

std::vector<Volume> Shelf::volumes() const {
    std::vector<Volume> out;
    SQLite::Statement q(*db_,
                        "SELECT number, family, file_system, offset, size, cluster_size, label, serial, "
                        "state, found_by, support, head_offset, readable, grid_start, geometry, votes FROM "
                        "volumes WHERE withdrawn = 0 ORDER BY number");
    const auto bytes = [&](int column) {
        const auto value = q.getColumn(column).getInt64();
        if (value < 0)
            damaged_shelf(path_, fmt::format("volume {} has {} bytes", q.getColumn(0).getInt64(), value));
        return static_cast<std::uint64_t>(value);
    };
    while (q.executeStep()) {
        Volume v;
        v.number = q.getColumn(0).getInt();
        v.family = q.getColumn(1).getString();
        v.file_system = q.getColumn(2).getString();
        v.offset = bytes(3);
        v.size = bytes(4);
        v.cluster_size = static_cast<std::uint32_t>(std::min<std::uint64_t>(bytes(5), ~0u));
        v.label = q.getColumn(6).getString();
        v.serial = q.getColumn(7).getString();
        v.state = q.getColumn(8).getString() == "former" ? VolumeState::former : VolumeState::present;
        v.found_by = q.getColumn(9).getString();
        v.support = std::clamp(q.getColumn(10).getDouble(), 0.0, 1.0);
        v.head_offset = bytes(11);
        v.readable = q.getColumn(12).getInt();
        v.grid_start = bytes(13);
        v.geometry = q.getColumn(14).getString();
        v.votes = q.getColumn(15).getString();
        out.push_back(std::move(v));
    }
    return out;
}

int Shelf::last_volume_number() const {
    return db_->execAndGet("SELECT coalesce(max(number), 0) FROM volumes").getInt();
}

std::optional<SetAside> Shelf::set_aside(std::int64_t id) const {
    SQLite::Statement q(*db_, "SELECT volume, name, merged_into FROM set_aside WHERE id = ?");
    q.bind(1, id);
    if (!q.executeStep()) return std::nullopt;
    SetAside out{q.getColumn(0).getInt(), q.getColumn(1).getString(), {}};
    if (!q.getColumn(2).isNull()) out.merged_into = q.getColumn(2).getInt64();
    return out;
}

std::vector<ScanRecord> Shelf::scans() const {
    std::vector<ScanRecord> out;
    SQLite::Statement q(
        *db_, "SELECT reach, started, coalesce(ended, ''), state, sweep_seconds FROM scans ORDER BY id");
    while (q.executeStep()) {
        out.push_back({q.getColumn(0).getString(),
                       q.getColumn(1).getString(),
                       q.getColumn(2).getString(),
                       q.getColumn(3).getString(),
                       {}});
        if (!q.getColumn(4).isNull()) out.back().sweep_seconds = q.getColumn(4).getDouble();
    }
    return out;
}

std::optional<ScanRecord> Shelf::last_scan() const {
    const auto all = scans();
    return all.empty() ? std::nullopt : std::optional(all.back());
}

bool Shelf::has_scanned(Reach reach) const {
    const auto all = scans();
    return std::any_of(all.begin(), all.end(),
                       [&](const ScanRecord& s) { return s.state == "done" && s.reach == word(reach); });
}

bool Shelf::may_have_unrated() const {
    const auto scan = last_scan();
    return !scan || scan->state != "done" || !not_copied().empty();
}

std::vector<JobRecord> Shelf::jobs() const {
    return read_jobs(*db_);
}

ScanState Shelf::state() const {
    return read_scan_state(*db_);
}

std::vector<std::string> Shelf::diagnostics() const {
    std::vector<std::string> out;
    SQLite::Statement q(*db_, "SELECT sentence FROM diagnostics ORDER BY id");
    while (q.executeStep()) out.push_back(q.getColumn(0).getString());
    return out;
}

void Shelf::for_each(const Selection& selection, const std::vector<SortKey>& order,
                     const std::function<bool(const ShelfEntry&)>& visit) const {
    const auto where = condition_of(selection);
    Rows rows(*db_,
              fmt::format("SELECT {} FROM {}{}{}{}", entry_columns, entry_tables,
                          where.text.empty() ? "" : " WHERE ", where.text, order_clause(order)),
              where.values);
    ShelfEntry entry;
    while (rows.next()) {
        read_entry(rows, path_, entry);
        if (!visit(entry)) return;
    }
}

void Shelf::for_each_called(const std::vector<std::string>& like,
                            const std::function<bool(const ShelfEntry&)>& visit) const {
    std::string where;
    std::vector<SqlValue> values;
    for (const auto& pattern : like) {
        where += where.empty() ? "e.name LIKE ?" : " OR e.name LIKE ?";
        values.emplace_back(pattern);
    }
    Rows rows(*db_, fmt::format("SELECT {} FROM {} WHERE {}", entry_columns, entry_tables, where), values);
    ShelfEntry entry;
    while (rows.next()) {
        read_entry(rows, path_, entry);
        if (!visit(entry)) return;
    }
}

void Shelf::for_each_folder(
    const std::function<void(std::int64_t id, const std::string& path)>& visit) const {
    SQLite::Statement q(*db_, "SELECT id, path FROM folders");
    while (q.executeStep()) visit(q.getColumn(0).getInt64(), q.getColumn(1).getString());
}

std::optional<ShelfEntry> Shelf::entry(std::int64_t id) const {
    Selection one;
    one.ids = {id};
    std::optional<ShelfEntry> out;
    for_each(one, {}, [&](const ShelfEntry& e) {
        out = e;
        return false;
    });
    return out;
}

std::uint64_t Shelf::count(const Selection& selection) const {
    const auto where = condition_of(selection);
    // Counting everything needs no other table.
    SQLite::Statement q(
        *db_, where.text.empty() ? "SELECT count(*) FROM entries"
                                 : fmt::format("SELECT count(*) FROM {} WHERE {}", entry_tables, where.text));
    bind_all(q, where.values);
    q.executeStep();
    return static_cast<std::uint64_t>(q.getColumn(0).getInt64());
}

std::array<std::uint64_t, 6> Shelf::count_by_grade(const Selection& selection) const {
    const auto where = condition_of(selection);
    SQLite::Statement q(
        *db_, fmt::format("SELECT e.grade * (e.rated = 1) AS r, count(*) FROM {} WHERE e.is_dir = 0{}{} "
                          "GROUP BY r",
                          entry_tables, where.text.empty() ? "" : " AND ", where.text));
    bind_all(q, where.values);
    std::array<std::uint64_t, 6> out{};
    while (q.executeStep()) {
        const auto grade = q.getColumn(0).getInt64();
        if (grade >= 0 && grade < static_cast<std::int64_t>(out.size()))
            out[static_cast<std::size_t>(grade)] = static_cast<std::uint64_t>(q.getColumn(1).getInt64());
    }
    return out;
}

std::vector<Piece> Shelf::pieces(std::int64_t entry) const {
    if (!pieces_query_)
        pieces_query_ =
            std::make_unique<SQLite::Statement>(*db_, "SELECT pieces FROM contents WHERE entry = ?");
    return unpack_pieces(blob_of(*pieces_query_, entry));
}
std::vector<ByteRange> Shelf::claims(std::int64_t entry) const {
    return unpack_ranges(blob_of(*db_, "SELECT claims FROM contents WHERE entry = ?", entry));
}
std::vector<Evidence> Shelf::evidence(std::int64_t entry) const {
    return unpack_evidence(blob_of(*db_, "SELECT evidence FROM entries WHERE id = ?", entry));
}

std::uint64_t Shelf::mark(const Selection& selection, bool on) {
    wait_for_a_moment(*db_);
    const auto where = condition_of(selection);
    const auto condition = where.text.empty() ? std::string() : " WHERE " + where.text;
    const auto chosen =
        fmt::format("SELECT e.id FROM entries e LEFT JOIN folders f ON f.id = e.folder{}", condition);
    try {
        SQLite::Transaction both(*db_);
        const auto changed = change_marks(where, chosen, on);
        end_job(*db_, begin_job(*db_, Work::mark, selection), "done");
        both.commit();
        return changed;
    } catch (const SQLite::Exception& e) {
        throw shelf_error(path_, e);
    }
}

std::uint64_t Shelf::change_marks(const SqlClause& where, const std::string& chosen, bool on) {
    SQLite::Statement s(*db_, on ? fmt::format("INSERT OR IGNORE INTO marks {}", chosen)
                                 : fmt::format("DELETE FROM marks WHERE entry IN ({})", chosen));
    bind_all(s, where.values);
    return static_cast<std::uint64_t>(s.exec());
}

}  // namespace undershelf
