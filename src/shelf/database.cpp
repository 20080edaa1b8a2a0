#include "shelf/database.hpp"

#include <fmt/format.h>
#include <sqlite3.h>
#include <unistd.h>

#include <chrono>
#include <cstdint>
#include <filesystem>
#include <fstream>
#include <map>
#include <optional>
#include <thread>

#include "shelf/holder.hpp"
#include "shelf/schema.hpp"
#include "shelf/schema_check.hpp"

namespace fs = std::filesystem;

namespace undershelf {

namespace {

constexpr int wait_for_others = 10'000;  ///< milliseconds
constexpr std::chrono::microseconds pause{200};
constexpr auto tries_a_second = std::chrono::seconds(1) / pause;

int main_code(const SQLite::Exception& e) {
    return e.getErrorCode() & 0xFF;
}

Error not_a_shelf(const std::string& path) {
    return {Trouble::input,
            fmt::format("{} is not a shelf; make one with `undershelf scan SOURCE --shelf FILE`.", path)};
}

Error nothing_in_it(const std::string& path) {
    return {Trouble::input,
            fmt::format("{} holds no scan yet: the one that began it was cut off. Give its command again.",
                        path)};
}

std::unique_ptr<SQLite::Database> open_database(const std::string& path, int flags) {
    // One thread uses it at a time, so SQLite need not lock on every call.
    auto db = std::make_unique<SQLite::Database>(path, flags | SQLite::OPEN_NOMUTEX, wait_for_others);
    distrust(*db);
    return db;
}

bool is_empty(SQLite::Database& db) {
    return db.execAndGet("SELECT count(*) FROM sqlite_master").getInt() == 0;
}

/// Throws Error when the database is no shelf of a version that this program reads. Returns the version.
int check_version(SQLite::Database& db, const std::string& path) {
    const int id = db.execAndGet("PRAGMA application_id").getInt();
    if (id != schema::application_id) throw id == 0 && is_empty(db) ? nothing_in_it(path) : not_a_shelf(path);
    const int version = db.execAndGet("PRAGMA user_version").getInt();
    if (version < schema::oldest_version || version > schema::version)
        throw Error(Trouble::input,
                    fmt::format("{} is a shelf of version {}, and this program reads those up to {}. Use the "
                                "version that made it, or scan the source again into a new shelf.",
                                path, version, schema::version));
    return version;
}

/// The source that a shelf names, read as the file is, without what a cut left beside it.
std::optional<std::string> source_named_in(const std::string& path) {
    try {
        std::string uri = "file:";
        for (const char c : fs::absolute(path).string())
            uri += c == '%' || c == '?' || c == '#' ? fmt::format("%{:02x}", c) : std::string(1, c);
        SQLite::Database db(uri + "?immutable=1", SQLite::OPEN_READONLY | SQLITE_OPEN_URI);
        distrust(db);
        return db.execAndGet("SELECT path FROM source").getString();
    } catch (const SQLite::Exception&) {
        return std::nullopt;
    }
}

/// Could it be that only somebody who may write can read it?
bool may_be_cut_off(const SQLite::Exception& e) {
    const int code = main_code(e);
    return code == SQLITE_READONLY || code == SQLITE_CANTOPEN || code == SQLITE_IOERR;
}

/// SQLite does it by itself as soon as somebody who may write looks at the file.
void put_right(const std::string& path) {
    if (const auto source = source_named_in(path)) SourceGuard(*source).refuse(path);
    try {
        const auto db = open_database(path, SQLite::OPEN_READWRITE);
        is_empty(*db);
    } catch (const SQLite::Exception& e) {
        const auto journal = path + "-journal", log = path + "-wal";
        throw Error(
            Trouble::input,
            fmt::format("The last step of {} was cut off, and it cannot be put right here: {}. Copy it, "
                        "together with {}, to a place that can be written to and has room, and give "
                        "that copy.",
                        path, e.what(), fs::exists(log) ? log : journal));
    }
}

/// What creates tables, for those that go when the database is closed.
std::string as_temporary(std::string sql) {
    constexpr std::string_view create = "CREATE TABLE";
    for (auto at = sql.find(create); at != sql.npos; at = sql.find(create, at + create.size()))
        sql.replace(at, create.size(), "CREATE TEMP TABLE");
    return sql;
}

/// An older version as the present one, for reading alone.
void show_as_present(SQLite::Database& db, int version) {
    if (version >= schema::version) return;
    if (version == 1) db.exec(as_temporary(schema::set_aside_of_1));
    if (version <= 5) db.exec(as_temporary(schema::create_jobs));
    if (version <= 6) db.exec(as_temporary(schema::create_looking));
    db.exec(as_temporary(schema::create_exported));
    std::map<std::string, std::string> columns;
    for (const auto& lacking : schema::lacking) {
        if (version < lacking.before) columns[lacking.table] += std::string(", ") + lacking.columns;
    }
    if (version <= 5) columns.erase("jobs");
    for (const auto& [table, added] : columns)
        db.exec(fmt::format("CREATE TEMP VIEW {0} AS SELECT *{1} FROM main.{0}", table, added));
}

std::unique_ptr<SQLite::Database> open_checked(const std::string& path, int flags) {
    auto db = open_database(path, flags);
    const int version = check_version(*db, path);
    check_schema(*db, version, path);
    show_as_present(*db, version);
    return db;
}

std::unique_ptr<SQLite::Database> open_existing(const std::string& path, int flags) {
    if (!fs::is_regular_file(path))
        throw Error(Trouble::input,
                    fmt::format("There is no shelf at {}. Make one with `undershelf scan`.", path));
    try {
        try {
            return open_checked(path, flags);
        } catch (const SQLite::Exception& e) {
            if (!may_be_cut_off(e)) throw;
        }
        put_right(path);
        return open_checked(path, flags);
    } catch (const SQLite::Exception& e) {
        if (main_code(e) == SQLITE_NOTADB) throw not_a_shelf(path);
        throw shelf_error(path, e);
    }
}

}  // namespace

void distrust(SQLite::Database& db) {
    auto* handle = db.getHandle();
    sqlite3_limit(handle, SQLITE_LIMIT_LENGTH, longest_shelf_value);
    sqlite3_db_config(handle, SQLITE_DBCONFIG_DEFENSIVE, 1, nullptr);
    sqlite3_db_config(handle, SQLITE_DBCONFIG_TRUSTED_SCHEMA, 0, nullptr);
    sqlite3_db_config(handle, SQLITE_DBCONFIG_ENABLE_TRIGGER, 0, nullptr);
    sqlite3_db_config(handle, SQLITE_DBCONFIG_ENABLE_LOAD_EXTENSION, 0, nullptr);
    db.exec("PRAGMA cell_size_check = ON");
}

std::unique_ptr<SQLite::Database> open_shelf_to_read(const std::string& path) {
    return open_existing(path, SQLite::OPEN_READONLY);
}

std::unique_ptr<SQLite::Database> open_shelf_to_mark(const std::string& path) {
    {
        const auto db = open_shelf_to_read(path);
        SQLite::Statement q(*db, "SELECT path FROM source");
        if (q.executeStep()) SourceGuard(q.getColumn(0).getString()).refuse(path);
    }
    return open_existing(path, SQLite::OPEN_READWRITE);
}

void wait_for_a_moment(SQLite::Database& db, std::chrono::seconds most) {
    sqlite3_busy_handler(
        db.getHandle(),
        [](void* most_tries, int tries) {
            std::this_thread::sleep_for(pause);
            return tries < reinterpret_cast<std::intptr_t>(most_tries) ? 1 : 0;
        },
        reinterpret_cast<void*>(static_cast<std::intptr_t>(most.count() * tries_a_second)));
}

bool is_shelf_file(const std::string& path) {
    // SQLite's file format, section 1.3: the mark at 0, the application's id at 68, big-endian.
    constexpr std::size_t head = 72, id_at = 68;
    char bytes[head];
    std::error_code ec;
    if (!fs::is_regular_file(path, ec)) return false;
    std::ifstream in(path, std::ios::binary);
    if (!in.read(bytes, head)) return false;
    std::uint32_t id = 0;
    for (std::size_t i = id_at; i < head; ++i) id = id << 8 | static_cast<unsigned char>(bytes[i]);
    return std::string_view(bytes, 16) == std::string_view("SQLite format 3\0", 16) &&
           id == static_cast<std::uint32_t>(schema::application_id);
}

ShelfFile look_at_shelf(const std::string& path) {
    std::error_code ec;
    if (!fs::exists(path, ec)) return ShelfFile::missing;
    if (!fs::is_regular_file(path, ec))
        throw Error(Trouble::input, fmt::format("{} is not a file; choose another name with --shelf.", path));
    if (fs::file_size(path, ec) == 0) return ShelfFile::begun;
    try {
        try {
            open_checked(path, SQLite::OPEN_READONLY);
        } catch (const SQLite::Exception& e) {
            if (!may_be_cut_off(e)) throw;
            put_right(path);
            if (fs::file_size(path, ec) == 0) return ShelfFile::begun;
            open_checked(path, SQLite::OPEN_READONLY);
        }
        return ShelfFile::shelf;
    } catch (const SQLite::Exception& e) {
        if (main_code(e) == SQLITE_NOTADB) throw not_a_shelf(path);
        throw shelf_error(path, e);
    } catch (const Error&) {
        // A database without anything in it is what a cut leaves of a shelf in its first moment.
        try {
            const auto db = open_database(path, SQLite::OPEN_READONLY);
            if (is_empty(*db) && db->execAndGet("PRAGMA application_id").getInt() == 0)
                return ShelfFile::begun;
        } catch (const SQLite::Exception&) {
            // It is something else.
        }
        throw;
    }
}

Error shelf_error(const std::string& path, const SQLite::Exception& failure) {
    switch (main_code(failure)) {
        case SQLITE_FULL:
            return {Trouble::output,
                    fmt::format("There is no room left for {}. What was found until then is kept. Make room "
                                "there and give the same command again: it goes on from there.",
                                path)};
        case SQLITE_IOERR:
            return {Trouble::output,
                    fmt::format("{} cannot be read or written: {}. What was kept before is safe. See to its "
                                "drive and its free space, and give the same command again.",
                                path, failure.what())};
        case SQLITE_BUSY:
        case SQLITE_LOCKED:
            return shelf_is_held(path);
        case SQLITE_READONLY:
        case SQLITE_CANTOPEN:
        case SQLITE_PERM:
            return {
                Trouble::output,
                fmt::format("{} cannot be written: {}. Copy it to a place that can be written to, or choose "
                            "another shelf with --shelf.",
                            path, failure.what())};
        default:
            return {Trouble::input, fmt::format("{} is damaged: {}. Scan the source again into a new shelf.",
                                                path, failure.what())};
    }
}

Error shelf_is_held(const std::string& path) {
    const auto holder = holder_of(path);
    return {
        Trouble::refused,
        fmt::format("Another command is writing to {}; wait for it or choose another shelf with --shelf.{}{}",
                    path, holder.empty() ? "" : " ", holder)};
}

void damaged_shelf(const std::string& path, const std::string& what) {
    throw Error(Trouble::input,
                fmt::format("{} is damaged: {}. Scan the source again into a new shelf.", path, what));
}

}  // namespace undershelf
