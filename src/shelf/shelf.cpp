#include "shelf/shelf.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "base/error.hpp"
#include "shelf/database.hpp"
#include "shelf/packing.hpp"
#include "shelf/sql_functions.hpp"

namespace undershelf {

namespace {

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
        *db_,
        "SELECT reach, started, coalesce(ended, ''), state, sweep_seconds, version, options, exit FROM scans "
        "ORDER BY id");
    while (q.executeStep()) {
        out.push_back({q.getColumn(0).getString(),
                       q.getColumn(1).getString(),
                       q.getColumn(2).getString(),
                       q.getColumn(3).getString(),
                       command_in(q, 5),
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

void Shelf::for_each_folder(
    const std::function<void(std::int64_t id, const std::string& path)>& visit) const {
    SQLite::Statement q(*db_, "SELECT id, path FROM folders");
    while (q.executeStep()) visit(q.getColumn(0).getInt64(), q.getColumn(1).getString());
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
void Shelf::for_each_claim(
    const std::function<void(Origin, Grade, const std::vector<ByteRange>&)>& visit) const {
    SQLite::Statement q(
        *db_, "SELECT e.origin, e.grade, c.claims FROM contents c JOIN entries e ON e.id = c.entry");
    while (q.executeStep()) {
        const auto origin = q.getColumn(0).getInt(), grade = q.getColumn(1).getInt();
        if (origin < 0 || origin > static_cast<int>(Origin::unnamed) || grade < 0 ||
            grade > static_cast<int>(Grade::verified))
            damaged_shelf(path_, fmt::format("an entry of it has the origin or grade {}", origin));
        const auto blob = q.getColumn(2);
        visit(static_cast<Origin>(origin), static_cast<Grade>(grade),
              unpack_ranges({static_cast<const std::uint8_t*>(blob.getBlob()),
                             static_cast<std::size_t>(blob.getBytes())}));
    }
}
std::vector<Evidence> Shelf::evidence(std::int64_t entry) const {
    return unpack_evidence(blob_of(*db_, "SELECT evidence FROM entries WHERE id = ?", entry));
}

}  // namespace undershelf
