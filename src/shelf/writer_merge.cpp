// The part of the writer that is about entries of present volumes that nothing names, and about those that a
// former volume tells of as well: these become the former one's.

#include <fmt/format.h>

#include "shelf/blobs.hpp"
#include "shelf/packing.hpp"
#include "shelf/writer_statements.hpp"

namespace undershelf {

namespace {

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

/// Into temp.twice: what both volumes have from the same slot, record or name.
void collect_alike(SQLite::Database& db, int present, int former) {
    make_twice(db);
    db.exec("DROP TABLE IF EXISTS temp.former_keys");
    db.exec(
        fmt::format("CREATE TEMP TABLE former_keys AS SELECT key_a, key_b, coalesce(stream, '') AS "
                    "stream, id, name, size, created, layout FROM entries WHERE volume = {}",
                    former));
    db.exec("CREATE INDEX temp.former_key ON former_keys(key_a, key_b)");
    db.exec(fmt::format(
        "INSERT OR IGNORE INTO twice SELECT p.id, f.id FROM entries p JOIN former_keys f ON f.key_a = "
        "p.key_a "
        "AND f.key_b = p.key_b AND f.stream = coalesce(p.stream, '') WHERE p.volume = {0} AND p.origin = {1} "
        "AND f.layout >= p.layout AND (p.id IN nameless OR p.folder IN nameless)",
        present, static_cast<int>(Origin::deleted)));
    // Names that its own journals and indexes still told of are files of before, where these have their
    // records.
    const auto alike = fmt::format(
        "FROM entries p JOIN former_keys f ON f.key_a = p.key_a AND f.name = p.name AND f.stream = "
        "coalesce(p.stream, '') AND f.size = p.size AND f.created IS p.created WHERE p.volume = {0} AND "
        "p.origin = {1}",
        present, static_cast<int>(Origin::deleted));
    db.exec("INSERT OR IGNORE INTO twice SELECT p.id, f.id " + alike + " AND f.layout >= p.layout");
    // One that tells where its content is does not go for one that does not.
    db.exec("INSERT OR IGNORE INTO twice SELECT f.id, p.id " + alike + " AND f.layout < p.layout");
}

/// Into temp.twice: nameless folders that a former volume has a folder's name for.
void collect_folders_alike(SQLite::Database& db, int present, int former) {
    // A folder without a name is the former volume's where its clusters are a folder's of that.
    std::map<std::uint64_t, std::int64_t> folders;
    SQLite::Statement f(db,
                        "SELECT e.id, c.claims FROM entries e JOIN contents c ON c.entry = e.id WHERE "
                        "e.volume = ? AND e.is_dir = 1");
    f.bind(1, former);
    while (f.executeStep()) {
        const auto claims = unpack_ranges(blob_in(f, 1));
        if (!claims.empty()) folders.emplace(claims.front().offset, f.getColumn(0).getInt64());
    }
    SQLite::Statement p(db,
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
    SQLite::Statement add(db, "INSERT OR IGNORE INTO twice VALUES(?,?)");
    for (const auto& [old, fresh] : more) {
        add.reset();
        add.bind(1, old);
        add.bind(2, fresh);
        add.exec();
    }
}

/// What becomes of nameless folders that the others were all of.
void settle_emptied(SQLite::Database& db, int present) {
    // A nameless folder that holds nothing else is none either: it was a piece of the former root.
    db.exec(fmt::format(
        "INSERT OR IGNORE INTO twice SELECT DISTINCT e.folder, NULL FROM twice t JOIN entries e ON e.id = "
        "t.old "
        "WHERE e.folder IN nameless AND e.folder NOT IN (SELECT folder FROM entries WHERE volume = {} AND id "
        "NOT IN (SELECT old FROM twice))",
        present));
    // What stays behind of an emptied folder is at the root.
    db.exec(
        fmt::format("UPDATE entries SET folder = -{0} WHERE volume = {0} AND folder IN (SELECT old FROM "
                    "twice) AND id NOT IN (SELECT old FROM twice)",
                    present));
}

}  // namespace

void make_twice(SQLite::Database& db) {
    db.exec("DROP TABLE IF EXISTS temp.twice");
    db.exec("CREATE TEMP TABLE twice(old INTEGER PRIMARY KEY, new INTEGER)");
}

void hand_marks_on(SQLite::Database& db, const std::string& pairs) {
    db.exec(fmt::format(
        "INSERT OR IGNORE INTO marks SELECT p.new FROM {} p JOIN marks m ON m.entry = p.old WHERE "
        "p.new IS NOT NULL",
        pairs));
    db.exec(
        fmt::format("INSERT OR IGNORE INTO named_marks SELECT m.name, p.new FROM {} p JOIN named_marks m ON "
                    "m.entry = p.old WHERE p.new IS NOT NULL",
                    pairs));
    // settle_exported() finds out whether that is what the other one has.
    db.exec(
        fmt::format("INSERT OR IGNORE INTO exported SELECT p.new, x.job, x.revision, x.layout FROM {} p JOIN "
                    "exported x ON x.entry = p.old WHERE p.new IS NOT NULL",
                    pairs));
    for (const char* table : {"marks", "named_marks"})
        db.exec(fmt::format("DELETE FROM {} WHERE entry IN (SELECT old FROM {})", table, pairs));
}

void set_aside_twice(SQLite::Database& db) {
    db.exec(
        "INSERT OR REPLACE INTO set_aside SELECT e.id, e.volume, v.family, e.key_a, e.key_b, "
        "coalesce(e.stream, ''), e.name, t.new FROM twice t JOIN entries e ON e.id = t.old JOIN volumes v ON "
        "v.number = e.volume");
    hand_marks_on(db, "twice");
    for (const char* sql :
         {"DELETE FROM contents WHERE entry IN (SELECT old FROM twice)",
          "DELETE FROM folders WHERE id IN (SELECT old FROM twice)",
          "DELETE FROM entries WHERE id IN (SELECT old FROM twice)", "DROP TABLE temp.twice"})
        db.exec(sql);
}

std::uint64_t ShelfWriter::merge_told_twice(int present, int former) {
    collect_nameless(*db_, present);
    collect_alike(*db_, present, former);
    collect_folders_alike(*db_, present, former);
    settle_emptied(*db_, present);
    const auto merged = static_cast<std::uint64_t>(db_->execAndGet("SELECT count(*) FROM twice").getInt64());
    set_aside_twice(*db_);
    db_->exec("DROP TABLE temp.former_keys; DROP TABLE temp.nameless");
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
    std::vector<ByteRange> named, all;
    SQLite::Statement f(*db_,
                        "SELECT c.claims, e.id IN nameless FROM entries e JOIN contents c ON c.entry = e.id "
                        "WHERE e.volume = ? AND e.is_dir = 1");
    f.bind(1, volume);
    while (f.executeStep()) {
        for (const auto& r : unpack_ranges(blob_in(f, 0))) {
            all.push_back(r);
            if (!f.getColumn(1).getInt()) named.push_back(r);
        }
    }
    out.folders = RangeSet(std::move(named));
    out.all_folders = RangeSet(std::move(all));
    f.reset();
    q.reset();
    db_->exec("DROP TABLE temp.nameless");
    return out;
}

}  // namespace undershelf
