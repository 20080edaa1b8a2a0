#pragma once
// The shelf's tables; docs/shelf-format.md describes them.

namespace undershelf::schema {

/// In the file's header, so that any program can tell a shelf from another SQLite file: "USHF".
constexpr int application_id = 0x55534846;
constexpr int version = 8;
/// Shelves from here on can be listed, shown and exported; a scan brings them up to the present version.
constexpr int oldest_version = 1;

constexpr const char* create = R"sql(
CREATE TABLE source(
    path TEXT NOT NULL, size INTEGER NOT NULL, sector_size INTEGER NOT NULL);
CREATE TABLE source_samples(
    offset INTEGER PRIMARY KEY, length INTEGER NOT NULL, sha256 TEXT NOT NULL);
CREATE TABLE settings(name TEXT PRIMARY KEY, value TEXT NOT NULL) WITHOUT ROWID;
CREATE TABLE scans(
    id INTEGER PRIMARY KEY, reach TEXT NOT NULL, started TEXT NOT NULL, ended TEXT, state TEXT NOT NULL,
    sweep_seconds REAL, version TEXT, options TEXT, exit INTEGER);
CREATE TABLE volumes(
    number INTEGER PRIMARY KEY, family TEXT NOT NULL, file_system TEXT NOT NULL, offset INTEGER NOT NULL,
    size INTEGER NOT NULL, cluster_size INTEGER NOT NULL, label TEXT NOT NULL, serial TEXT NOT NULL,
    state TEXT NOT NULL, found_by TEXT NOT NULL, support REAL NOT NULL, head_offset INTEGER NOT NULL,
    readable INTEGER NOT NULL, progress TEXT NOT NULL, grid_start INTEGER NOT NULL, geometry TEXT NOT NULL,
    votes TEXT NOT NULL, withdrawn INTEGER NOT NULL);
CREATE TABLE folders(id INTEGER PRIMARY KEY, volume INTEGER NOT NULL, path TEXT NOT NULL);
CREATE TABLE entries(
    id INTEGER PRIMARY KEY, volume INTEGER, folder INTEGER NOT NULL, origin INTEGER NOT NULL,
    name TEXT NOT NULL, stream TEXT, name_certainty INTEGER NOT NULL, is_dir INTEGER NOT NULL,
    system INTEGER NOT NULL, binned INTEGER NOT NULL, first_path TEXT, kind INTEGER NOT NULL, ext TEXT NOT NULL,
    size INTEGER NOT NULL, grade INTEGER NOT NULL, chance REAL NOT NULL, share_left REAL NOT NULL,
    layout INTEGER NOT NULL, created INTEGER, modified INTEGER, accessed INTEGER, deleted INTEGER,
    zones INTEGER NOT NULL, attributes INTEGER NOT NULL, rank INTEGER NOT NULL,
    key_a INTEGER NOT NULL, key_b INTEGER NOT NULL, evidence BLOB, dates INTEGER, format TEXT,
    checked INTEGER, complete INTEGER, holds_to INTEGER, proven_to INTEGER, revision INTEGER,
    helper INTEGER NOT NULL, start INTEGER, earlier_names TEXT, link TEXT, rated INTEGER NOT NULL,
    pixels TEXT, seconds REAL, pages INTEGER, title TEXT, camera TEXT);
CREATE TABLE contents(entry INTEGER PRIMARY KEY, pieces BLOB NOT NULL, claims BLOB NOT NULL);
CREATE TABLE in_use(volume INTEGER NOT NULL, offset INTEGER NOT NULL, length INTEGER NOT NULL);
CREATE TABLE unreadable(
    offset INTEGER PRIMARY KEY, length INTEGER NOT NULL, not_copied INTEGER NOT NULL);
CREATE TABLE diagnostics(id INTEGER PRIMARY KEY, volume INTEGER, sentence TEXT NOT NULL);
CREATE TABLE marks(entry INTEGER PRIMARY KEY);
CREATE TABLE same_content(entry INTEGER PRIMARY KEY, content INTEGER NOT NULL, live INTEGER NOT NULL);
)sql";

/// What version 2 added beside columns.
constexpr const char* create_sweep = R"sql(
CREATE TABLE traces(
    family TEXT NOT NULL, kind INTEGER NOT NULL, offset INTEGER NOT NULL, a INTEGER NOT NULL,
    b INTEGER NOT NULL, data BLOB NOT NULL, PRIMARY KEY(family, kind, offset)) WITHOUT ROWID;
CREATE TABLE checkpoint(swept INTEGER NOT NULL, settled INTEGER NOT NULL);
CREATE TABLE traces_left_out(family TEXT NOT NULL, kind INTEGER NOT NULL, traces INTEGER NOT NULL,
    PRIMARY KEY(family, kind)) WITHOUT ROWID;
CREATE TABLE set_aside(
    id INTEGER PRIMARY KEY, volume INTEGER NOT NULL, family TEXT NOT NULL, key_a INTEGER NOT NULL,
    key_b INTEGER NOT NULL, stream TEXT NOT NULL, name TEXT NOT NULL, merged_into INTEGER);
)sql";

/// From version 1 on, in place. A sweep of then looked for heads alone, so that it has to be done again.
constexpr const char* upgrade_from_1 = R"sql(
ALTER TABLE volumes ADD COLUMN grid_start INTEGER NOT NULL DEFAULT 0;
ALTER TABLE volumes ADD COLUMN geometry TEXT NOT NULL DEFAULT '';
ALTER TABLE volumes ADD COLUMN votes TEXT NOT NULL DEFAULT '';
ALTER TABLE volumes ADD COLUMN withdrawn INTEGER NOT NULL DEFAULT 0;
ALTER TABLE entries ADD COLUMN dates INTEGER;
ALTER TABLE entries ADD COLUMN format TEXT;
ALTER TABLE entries ADD COLUMN checked INTEGER;
ALTER TABLE entries ADD COLUMN complete INTEGER;
ALTER TABLE entries ADD COLUMN holds_to INTEGER;
ALTER TABLE entries ADD COLUMN proven_to INTEGER;
ALTER TABLE entries ADD COLUMN revision INTEGER;
ALTER TABLE scans ADD COLUMN sweep_seconds REAL;
DELETE FROM settings WHERE name = 'sweep';
UPDATE scans SET state = 'interrupted' WHERE reach = 'traces';
)sql";

/// From version 2 on (and 1): images of which only a part was copied.
constexpr const char* upgrade_from_2 =
    "ALTER TABLE unreadable ADD COLUMN not_copied INTEGER NOT NULL DEFAULT 0";

/// From version 3 on (and before): files that were moved, and what only serves a bin or a viewer.
constexpr const char* upgrade_from_3 = R"sql(
ALTER TABLE entries ADD COLUMN helper INTEGER NOT NULL DEFAULT 0;
ALTER TABLE entries ADD COLUMN start INTEGER;
ALTER TABLE entries ADD COLUMN earlier_names TEXT;
)sql";

/// From version 4 on (and before): links, and where they lead.
constexpr const char* upgrade_from_4 = "ALTER TABLE entries ADD COLUMN link TEXT";

/// From version 5 on (and before): which entries are rated, and what was done with a shelf beside scans. All
/// that earlier versions left had a rating.
constexpr const char* upgrade_from_5 = "ALTER TABLE entries ADD COLUMN rated INTEGER NOT NULL DEFAULT 1";
constexpr const char* create_jobs = R"sql(
CREATE TABLE jobs(
    id INTEGER PRIMARY KEY, what TEXT NOT NULL, selection TEXT NOT NULL, folder TEXT NOT NULL,
    after_scan INTEGER NOT NULL, started TEXT NOT NULL, ended TEXT, state TEXT NOT NULL,
    version TEXT, options TEXT, exit INTEGER);
)sql";

/// From version 6 on (and before): what contents tell of themselves, and what people look through them with.
constexpr const char* upgrade_from_6 = R"sql(
ALTER TABLE entries ADD COLUMN pixels TEXT;
ALTER TABLE entries ADD COLUMN seconds REAL;
ALTER TABLE entries ADD COLUMN pages INTEGER;
ALTER TABLE entries ADD COLUMN title TEXT;
ALTER TABLE entries ADD COLUMN camera TEXT;
)sql";
constexpr const char* create_looking = R"sql(
CREATE TABLE named_marks(name TEXT NOT NULL, entry INTEGER NOT NULL, PRIMARY KEY(entry, name)) WITHOUT ROWID;
CREATE TABLE shown_folders(
    id INTEGER PRIMARY KEY, parent INTEGER NOT NULL, volume INTEGER NOT NULL, name TEXT NOT NULL,
    origin INTEGER NOT NULL, flags INTEGER NOT NULL, files INTEGER NOT NULL, bytes INTEGER NOT NULL, likely INTEGER NOT NULL);
)sql";

/// From version 7 on (and before): which command did it, and what was exported. `jobs` of versions 6 and 7
/// are there already.
constexpr const char* upgrade_from_7 = R"sql(
ALTER TABLE scans ADD COLUMN version TEXT;
ALTER TABLE scans ADD COLUMN options TEXT;
ALTER TABLE scans ADD COLUMN exit INTEGER;
)sql";
constexpr const char* upgrade_jobs_from_7 = R"sql(
ALTER TABLE jobs ADD COLUMN version TEXT;
ALTER TABLE jobs ADD COLUMN options TEXT;
ALTER TABLE jobs ADD COLUMN exit INTEGER;
)sql";
constexpr const char* create_exported = R"sql(
CREATE TABLE exported(
    entry INTEGER NOT NULL, job INTEGER NOT NULL, revision INTEGER NOT NULL, layout INTEGER NOT NULL,
    PRIMARY KEY(entry, job)) WITHOUT ROWID;
)sql";

/// Columns that earlier versions lack, as they are read: those before `before`.
struct Lacking {
    const char* table;
    int before;
    const char* columns;
};
constexpr Lacking lacking[] = {
    {"entries", 2,
     "NULL AS dates, NULL AS format, NULL AS checked, NULL AS complete, NULL AS holds_to, NULL AS proven_to, "
     "NULL AS revision"},
    {"entries", 4, "0 AS helper, NULL AS start, NULL AS earlier_names"},
    {"entries", 5, "NULL AS link"},
    {"entries", 6, "1 AS rated"},
    {"entries", 7, "NULL AS pixels, NULL AS seconds, NULL AS pages, NULL AS title, NULL AS camera"},
    {"scans", 2, "NULL AS sweep_seconds"},
    {"scans", 8, "NULL AS version, NULL AS options, NULL AS exit"},
    {"jobs", 8, "NULL AS version, NULL AS options, NULL AS exit"},
    {"unreadable", 3, "0 AS not_copied"},
    {"volumes", 2, "0 AS grid_start, '' AS geometry, '' AS votes, 0 AS withdrawn"}};
/// Version 1 beside columns.
constexpr const char* set_aside_of_1 = R"sql(
CREATE TABLE set_aside(
    id INTEGER PRIMARY KEY, volume INTEGER NOT NULL, family TEXT NOT NULL, key_a INTEGER NOT NULL,
    key_b INTEGER NOT NULL, stream TEXT NOT NULL, name TEXT NOT NULL, merged_into INTEGER);
)sql";

constexpr const char* create_listing = R"sql(
CREATE VIEW listing AS SELECT
    e.id, e.volume,
    CASE e.origin WHEN 0 THEN 'live' WHEN 1 THEN 'deleted' WHEN 2 THEN 'former' ELSE 'unnamed' END AS origin,
    CASE f.path WHEN '' THEN e.name ELSE f.path || '/' || e.name END AS path,
    e.name, e.stream, e.size,
    CASE e.grade * (e.rated = 1) WHEN 1 THEN 'gone' WHEN 2 THEN 'partial' WHEN 3 THEN 'doubtful' WHEN 4 THEN 'likely'
                 WHEN 5 THEN 'verified' END AS grade,
    CASE e.rated WHEN 1 THEN round(e.chance, 3) END AS chance, round(e.share_left, 3) AS share_left,
    datetime(e.modified / 10000000, 'unixepoch') AS modified
    FROM entries e LEFT JOIN folders f ON f.id = e.folder;
)sql";

}  // namespace undershelf::schema
