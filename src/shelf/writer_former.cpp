// The part of the writer that is about former volumes. They are settled anew whenever more of a source is
// swept; volumes and entries that are still told of keep their numbers and ids, what is not is set aside.

#include <fmt/format.h>

#include <algorithm>

#include "shelf/blobs.hpp"
#include "shelf/packing.hpp"
#include "shelf/writer_statements.hpp"

namespace undershelf {

namespace {

std::uint64_t print_of(const std::string& family, const EntryKey& key, std::string_view stream,
                       std::string_view name) {
    std::uint64_t hash = 0xCBF29CE484222325ull;  // FNV-1a
    const auto add = [&](std::uint8_t byte) { hash = (hash ^ byte) * 0x100000001B3ull; };
    const auto text = [&](std::string_view t) {
        for (const auto c : t) add(static_cast<std::uint8_t>(c));
        add(0);
    };
    text(family);
    for (int shift = 0; shift < 64; shift += 8) {
        add(static_cast<std::uint8_t>(key.a >> shift));
        add(static_cast<std::uint8_t>(key.b >> shift));
    }
    text(stream);
    text(name);
    return hash;
}

EntryKey key_in(SQLite::Statement& q, int column) {
    return {static_cast<std::uint64_t>(q.getColumn(column).getInt64()),
            static_cast<std::uint64_t>(q.getColumn(column + 1).getInt64())};
}

std::string text_in(SQLite::Statement& q, int column) {
    return q.getColumn(column).isNull() ? std::string() : q.getColumn(column).getString();
}

constexpr const char* former_volumes = "(SELECT number FROM volumes WHERE state = 'former' OR withdrawn = 1)";

/// Folders of a volume that nothing names, and all that are in them, into temp.nameless.
void collect_nameless(SQLite::Database& db, int volume) {
    db.exec("DROP TABLE IF EXISTS temp.nameless");
    db.exec("CREATE TEMP TABLE nameless(id INTEGER PRIMARY KEY)");
    struct Folder {
        std::int64_t above = 0;
        bool nameless = false, settled = false;
    };
    std::unordered_map<std::int64_t, Folder> folders;
    SQLite::Statement q(db, "SELECT id, folder, name_certainty FROM entries WHERE volume = ? AND is_dir = 1");
    q.bind(1, volume);
    while (q.executeStep()) {
        const bool made_up = q.getColumn(2).getInt() == static_cast<int>(NameCertainty::made_up);
        folders[q.getColumn(0).getInt64()] = {q.getColumn(1).getInt64(), made_up, made_up};
    }
    SQLite::Statement add(db, "INSERT INTO nameless VALUES(?)");
    std::vector<Folder*> way;
    for (auto& [id, folder] : folders) {
        // Up to the first one that is settled; what that is, all below it are.
        way.clear();
        auto* at = &folder;
        for (; !at->settled; at = &folders.find(at->above)->second) {
            at->settled = true;
            way.push_back(at);
            if (folders.count(at->above) == 0) break;
        }
        for (auto* below : way) below->nameless = at->nameless;
        if (!folder.nameless) continue;
        add.reset();
        add.bind(1, id);
        add.exec();
    }
}

}  // namespace

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

void ShelfWriter::take_out_former() {
    // All of it is set aside first, so that no id is lost whenever this ends.
    db_->exec(fmt::format(
        "INSERT OR REPLACE INTO set_aside SELECT e.id, e.volume, v.family, e.key_a, e.key_b, "
        "coalesce(e.stream, ''), CASE e.is_dir WHEN 1 THEN '' ELSE e.name END, NULL FROM entries e JOIN "
        "volumes v ON v.number = e.volume WHERE e.volume IN {}",
        former_volumes));
    for (const char* sql :
         {"DELETE FROM contents WHERE entry IN (SELECT id FROM entries WHERE volume IN {})",
          "DELETE FROM entries WHERE volume IN {}", "DELETE FROM folders WHERE volume IN {}",
          "DELETE FROM diagnostics WHERE volume IN {}"})
        db_->exec(fmt::format(fmt::runtime(sql), former_volumes));
    old_ids_.clear();
    SQLite::Statement q(*db_,
                        "SELECT id, family, key_a, key_b, stream, name FROM set_aside WHERE merged_into IS "
                        "NULL");
    while (q.executeStep())
        old_ids_.emplace(print_of(text_in(q, 1), key_in(q, 2), text_in(q, 4), text_in(q, 5)),
                         q.getColumn(0).getInt64());
}

std::int64_t ShelfWriter::former_id(const std::string& family, const EntryKey& key, std::string_view stream,
                                    std::string_view name) {
    const auto [from, to] = old_ids_.equal_range(print_of(family, key, stream, name));
    if (from == to) return next_id();
    // Of several the lowest, so that they come back in their order.
    const auto it =
        std::min_element(from, to, [](const auto& a, const auto& b) { return a.second < b.second; });
    const auto id = it->second;
    old_ids_.erase(it);
    auto& s = statements_->come_back;
    s.bind(1, id);
    s.exec();
    s.reset();
    return id;
}

std::uint64_t ShelfWriter::unmark_set_aside() {
    old_ids_.clear();
    return static_cast<std::uint64_t>(
        db_->exec("DELETE FROM marks WHERE entry IN (SELECT id FROM set_aside WHERE merged_into IS NULL)"));
}

std::uint64_t ShelfWriter::merge_told_twice(int present, int former) {
    collect_nameless(*db_, present);
    db_->exec("DROP TABLE IF EXISTS temp.twice; DROP TABLE IF EXISTS temp.former_keys");
    db_->exec("CREATE TEMP TABLE twice(old INTEGER PRIMARY KEY, new INTEGER)");
    db_->exec(
        fmt::format("CREATE TEMP TABLE former_keys AS SELECT key_a, key_b, coalesce(stream, '') AS "
                    "stream, id, name, size, created FROM entries WHERE volume = {}",
                    former));
    db_->exec("CREATE INDEX temp.former_key ON former_keys(key_a, key_b)");
    db_->exec(fmt::format(
        "INSERT OR IGNORE INTO twice SELECT p.id, f.id FROM entries p JOIN former_keys f ON f.key_a = "
        "p.key_a "
        "AND f.key_b = p.key_b AND f.stream = coalesce(p.stream, '') WHERE p.volume = {0} AND p.origin = {1} "
        "AND (p.id IN nameless OR p.folder IN nameless)",
        present, static_cast<int>(Origin::deleted)));
    // Names that its own journals and indexes still told of are files of before, where these have their
    // records.
    db_->exec(fmt::format(
        "INSERT OR IGNORE INTO twice SELECT p.id, f.id FROM entries p JOIN former_keys f ON f.key_a = "
        "p.key_a "
        "AND f.name = p.name AND f.stream = coalesce(p.stream, '') AND f.size = p.size AND f.created IS "
        "p.created WHERE p.volume = {0} AND p.origin = {1}",
        present, static_cast<int>(Origin::deleted)));
    // A folder without a name is the former volume's where its clusters are a folder's of that.
    std::map<std::uint64_t, std::int64_t> folders;
    SQLite::Statement f(*db_,
                        "SELECT e.id, c.claims FROM entries e JOIN contents c ON c.entry = e.id WHERE "
                        "e.volume = ? AND e.is_dir = 1");
    f.bind(1, former);
    while (f.executeStep()) {
        const auto claims = unpack_ranges(blob_in(f, 1));
        if (!claims.empty()) folders.emplace(claims.front().offset, f.getColumn(0).getInt64());
    }
    SQLite::Statement p(*db_,
                        "SELECT e.id, c.claims FROM entries e JOIN contents c ON c.entry = e.id WHERE "
                        "e.volume = ? AND e.is_dir = 1 AND e.id IN nameless AND e.id NOT IN (SELECT old FROM "
                        "twice)");
    p.bind(1, present);
    std::vector<std::pair<std::int64_t, std::int64_t>> more;
    while (p.executeStep()) {
        const auto claims = unpack_ranges(blob_in(p, 1));
        const auto it = claims.empty() ? folders.end() : folders.find(claims.front().offset);
        if (it != folders.end()) more.emplace_back(p.getColumn(0).getInt64(), it->second);
    }
    SQLite::Statement add(*db_, "INSERT OR IGNORE INTO twice VALUES(?,?)");
    for (const auto& [old, fresh] : more) {
        add.reset();
        add.bind(1, old);
        add.bind(2, fresh);
        add.exec();
    }
    // A nameless folder that holds nothing else is none either: it was a piece of the former root.
    db_->exec(fmt::format(
        "INSERT OR IGNORE INTO twice SELECT DISTINCT e.folder, NULL FROM twice t JOIN entries e ON e.id = "
        "t.old "
        "WHERE e.folder IN nameless AND e.folder NOT IN (SELECT folder FROM entries WHERE volume = {} AND id "
        "NOT IN (SELECT old FROM twice))",
        present));
    // What stays behind of an emptied folder stands at the root.
    db_->exec(
        fmt::format("UPDATE entries SET folder = -{0} WHERE volume = {0} AND folder IN (SELECT old FROM "
                    "twice) AND id NOT IN (SELECT old FROM twice)",
                    present));
    db_->exec(
        "INSERT OR REPLACE INTO set_aside SELECT e.id, e.volume, v.family, e.key_a, e.key_b, "
        "coalesce(e.stream, ''), e.name, t.new FROM twice t JOIN entries e ON e.id = t.old JOIN volumes v ON "
        "v.number = e.volume");
    db_->exec(
        "UPDATE OR IGNORE marks SET entry = (SELECT new FROM twice WHERE old = entry) WHERE entry IN "
        "(SELECT old FROM twice WHERE new IS NOT NULL)");
    for (const char* sql : {"DELETE FROM marks WHERE entry IN (SELECT old FROM twice)",
                            "DELETE FROM contents WHERE entry IN (SELECT old FROM twice)",
                            "DELETE FROM folders WHERE id IN (SELECT old FROM twice)",
                            "DELETE FROM entries WHERE id IN (SELECT old FROM twice)"})
        db_->exec(sql);
    const auto merged = static_cast<std::uint64_t>(db_->execAndGet("SELECT count(*) FROM twice").getInt64());
    db_->exec("DROP TABLE temp.twice; DROP TABLE temp.former_keys; DROP TABLE temp.nameless");
    return merged;
}

ShelfWriter::Named ShelfWriter::named_in(int volume) {
    Named out;
    collect_nameless(*db_, volume);
    SQLite::Statement q(*db_,
                        "SELECT min(created) FROM entries WHERE volume = ? AND system = 0 AND created IS NOT "
                        "NULL AND id NOT IN nameless AND folder NOT IN nameless");
    q.bind(1, volume);
    if (q.executeStep() && !q.getColumn(0).isNull()) out.oldest = q.getColumn(0).getInt64();
    std::vector<ByteRange> ranges;
    SQLite::Statement f(*db_,
                        "SELECT c.claims FROM entries e JOIN contents c ON c.entry = e.id WHERE e.volume = ? "
                        "AND e.is_dir = 1 AND e.id NOT IN nameless");
    f.bind(1, volume);
    while (f.executeStep()) {
        for (const auto& r : unpack_ranges(blob_in(f, 0))) ranges.push_back(r);
    }
    out.folders = RangeSet(std::move(ranges));
    f.reset();
    q.reset();
    db_->exec("DROP TABLE temp.nameless");
    return out;
}

std::int64_t ShelfWriter::newest_date(int volume) const {
    SQLite::Statement q(
        *db_,
        "SELECT max(max(coalesce(created, modified), coalesce(modified, created))) FROM entries "
        "WHERE volume = ?");
    q.bind(1, volume);
    return q.executeStep() && !q.getColumn(0).isNull() ? q.getColumn(0).getInt64()
                                                       : std::numeric_limits<std::int64_t>::min();
}

namespace {
/// Appends the contents of live entries that fulfil a condition.
void append_live(SQLite::Database& db, const std::string& condition, std::vector<ByteRange>& out) {
    SQLite::Statement q(db,
                        fmt::format("SELECT e.is_dir, c.claims, c.pieces FROM contents c JOIN entries e ON "
                                    "e.id = c.entry WHERE e.origin = 0 AND {}",
                                    condition));
    while (q.executeStep()) {
        if (q.getColumn(0).getInt()) {
            for (const auto& r : unpack_ranges(blob_in(q, 1))) out.push_back(r);
            continue;
        }
        // Behind a file's end stands what was there before it.
        for (const auto& p : unpack_pieces(blob_in(q, 2))) {
            if (p.kind == PieceKind::stored) out.push_back(p.source_range());
            out.insert(out.end(), p.input.begin(), p.input.end());
        }
    }
}
}  // namespace

RangeSet ShelfWriter::live_ranges() const {
    std::vector<ByteRange> ranges;
    append_live(*db_, "e.system = 0", ranges);
    return RangeSet(std::move(ranges));
}

RangeSet ShelfWriter::held_by(std::string_view family) const {
    std::vector<ByteRange> ranges;
    const auto volumes = fmt::format("volume IN (SELECT number FROM volumes WHERE family = '{}')", family);
    append_live(*db_, "e." + volumes, ranges);
    SQLite::Statement u(*db_, "SELECT offset, length FROM in_use WHERE " + volumes);
    while (u.executeStep())
        ranges.push_back({static_cast<std::uint64_t>(u.getColumn(0).getInt64()),
                          static_cast<std::uint64_t>(u.getColumn(1).getInt64())});
    return RangeSet(std::move(ranges));
}

}  // namespace undershelf
