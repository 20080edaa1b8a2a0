#pragma once
// The shelf's tables; docs/shelf-format.md describes them.

namespace undershelf::schema {

/// In the file's header, so that any program can tell a shelf from another SQLite file: "USHF".
constexpr int application_id = 0x55534846;
constexpr int version = 1;

constexpr const char* create = R"sql(
CREATE TABLE source(
    path TEXT NOT NULL, size INTEGER NOT NULL, sector_size INTEGER NOT NULL);
CREATE TABLE source_samples(
    offset INTEGER PRIMARY KEY, length INTEGER NOT NULL, sha256 TEXT NOT NULL);
CREATE TABLE settings(name TEXT PRIMARY KEY, value TEXT NOT NULL) WITHOUT ROWID;
CREATE TABLE scans(
    id INTEGER PRIMARY KEY, reach TEXT NOT NULL, started TEXT NOT NULL, ended TEXT, state TEXT NOT NULL);
CREATE TABLE volumes(
    number INTEGER PRIMARY KEY, family TEXT NOT NULL, file_system TEXT NOT NULL, offset INTEGER NOT NULL,
    size INTEGER NOT NULL, cluster_size INTEGER NOT NULL, label TEXT NOT NULL, serial TEXT NOT NULL,
    state TEXT NOT NULL, found_by TEXT NOT NULL, support REAL NOT NULL, head_offset INTEGER NOT NULL,
    readable INTEGER NOT NULL, progress TEXT NOT NULL);
CREATE TABLE folders(id INTEGER PRIMARY KEY, volume INTEGER NOT NULL, path TEXT NOT NULL);
CREATE TABLE entries(
    id INTEGER PRIMARY KEY, volume INTEGER, folder INTEGER NOT NULL, origin INTEGER NOT NULL,
    name TEXT NOT NULL, stream TEXT, name_certainty INTEGER NOT NULL, is_dir INTEGER NOT NULL,
    system INTEGER NOT NULL, binned INTEGER NOT NULL, first_path TEXT, kind INTEGER NOT NULL, ext TEXT NOT NULL,
    size INTEGER NOT NULL, grade INTEGER NOT NULL, chance REAL NOT NULL, share_left REAL NOT NULL,
    layout INTEGER NOT NULL, created INTEGER, modified INTEGER, accessed INTEGER, deleted INTEGER,
    zones INTEGER NOT NULL, attributes INTEGER NOT NULL, rank INTEGER NOT NULL,
    key_a INTEGER NOT NULL, key_b INTEGER NOT NULL, evidence BLOB);
CREATE TABLE contents(entry INTEGER PRIMARY KEY, pieces BLOB NOT NULL, claims BLOB NOT NULL);
CREATE TABLE in_use(volume INTEGER NOT NULL, offset INTEGER NOT NULL, length INTEGER NOT NULL);
CREATE TABLE unreadable(offset INTEGER PRIMARY KEY, length INTEGER NOT NULL);
CREATE TABLE diagnostics(id INTEGER PRIMARY KEY, volume INTEGER, sentence TEXT NOT NULL);
CREATE TABLE marks(entry INTEGER PRIMARY KEY);
CREATE TABLE same_content(entry INTEGER PRIMARY KEY, content INTEGER NOT NULL, live INTEGER NOT NULL);
CREATE VIEW listing AS SELECT
    e.id, e.volume,
    CASE e.origin WHEN 0 THEN 'live' WHEN 1 THEN 'deleted' WHEN 2 THEN 'former' ELSE 'unnamed' END AS origin,
    CASE f.path WHEN '' THEN e.name ELSE f.path || '/' || e.name END AS path,
    e.name, e.stream, e.size,
    CASE e.grade WHEN 1 THEN 'gone' WHEN 2 THEN 'partial' WHEN 3 THEN 'doubtful' WHEN 4 THEN 'likely'
                 WHEN 5 THEN 'verified' END AS grade,
    round(e.chance, 3) AS chance, round(e.share_left, 3) AS share_left,
    datetime(e.modified / 10000000, 'unixepoch') AS modified
    FROM entries e LEFT JOIN folders f ON f.id = e.folder;
)sql";

}  // namespace undershelf::schema
