#include "shelf/writer.hpp"

#include <fmt/format.h>
#include <sqlite3.h>
#include <sys/file.h>

#include <exception>
#include <system_error>
#include <thread>

#include "base/error.hpp"
#include "base/slash_path.hpp"
#include "base/text.hpp"
#include "shelf/blobs.hpp"
#include "shelf/database.hpp"
#include "shelf/packing.hpp"
#include "shelf/schema.hpp"
#include "shelf/sql_functions.hpp"
#include "shelf/writer_statements.hpp"

namespace undershelf {

namespace {
constexpr unsigned rows_a_look = 4096;
constexpr std::chrono::milliseconds batch_time{400};

}  // namespace

ShelfWriter::ShelfWriter(const SourceGuard& guard, const std::string& path)
    : path_(path), exceptions_before_(std::uncaught_exceptions()) {
    guard.refuse(path);
    made_ = look_at_shelf(path) == ShelfFile::missing;
    try {
        lock(guard);
        open();
    } catch (const SQLite::Exception& e) {
        close();
        if (made_) take_away();
        throw shelf_error(path, e);
    } catch (const Error&) {
        close();
        if (made_) take_away();
        throw;
    }
    last_commit_ = std::chrono::steady_clock::now();
}

/// One scan at a time.
void ShelfWriter::lock(const SourceGuard& guard) {
    try {
        lock_ = open_to_write(guard, path_, There::may);
    } catch (const std::system_error& e) {
        made_ = false;
        throw Error(Trouble::output,
                    fmt::format("The shelf {} cannot be written: {}. Choose another place with "
                                "--shelf.",
                                path_, e.code().message()));
    }
    if (::flock(lock_.get(), LOCK_EX | LOCK_NB) == 0) return;
    made_ = false;
    throw shelf_is_held(path_);
}

void ShelfWriter::open() {
    db_ = std::make_unique<SQLite::Database>(path_, SQLite::OPEN_READWRITE | SQLite::OPEN_CREATE, 2000);
    distrust(*db_);
    db_->exec("PRAGMA journal_mode=WAL");
    db_->exec("PRAGMA synchronous=NORMAL");
    add_sql_functions(*db_, unreadable_);
    db_->exec("BEGIN IMMEDIATE");
    const bool empty = db_->execAndGet("PRAGMA user_version").getInt() == 0;
    if (empty) create_schema();
    state_ = read_scan_state(*db_);
    bring_up();
    // Before its source was known nothing can have been found.
    fresh_ = empty || db_->execAndGet("SELECT count(*) FROM source").getInt() == 0;
    statements_ = std::make_unique<Statements>(*db_);
    next_id_ = db_->execAndGet(
                      "SELECT max(coalesce((SELECT max(id) FROM entries), 0), coalesce((SELECT max(id) "
                      "FROM folders), 0), coalesce((SELECT max(id) FROM set_aside), 0)) + 1")
                   .getInt64();
}

ShelfWriter::~ShelfWriter() {
    // What was begun by something that was then refused leaves nothing.
    const bool in_vain = made_ && !committed_ && std::uncaught_exceptions() > exceptions_before_;
    try {
        statements_.reset();
        db_->exec(in_vain ? "ROLLBACK" : "COMMIT");
    } catch (const SQLite::Exception&) {
        // What was committed before is safe; there is nobody left to tell.
    }
    try {
        // A shelf at rest is one plain file; with readers still there it stays as it is, which does no harm.
        sqlite3_busy_timeout(db_->getHandle(), 0);
        db_->exec("PRAGMA journal_mode=DELETE");
    } catch (const SQLite::Exception&) {
        // It is put right by whoever opens it next.
    }
    close();
    if (in_vain) take_away();
}

/// The lock is kept until the database is closed: closing its file earlier would drop SQLite's own locks.
void ShelfWriter::close() {
    statements_.reset();
    db_.reset();
    lock_.reset();
}

void ShelfWriter::take_away() const {
    for (const auto* suffix : {"-wal", "-shm", "-journal", ""}) remove_quietly(path_ + suffix);
}

void ShelfWriter::create_schema() {
    db_->exec(schema::create);
    db_->exec(schema::create_sweep);
    db_->exec(schema::create_jobs);
    db_->exec(schema::create_looking);
    db_->exec(schema::create_exported);
    db_->exec(schema::create_listing);
    db_->exec(fmt::format("PRAGMA application_id={}", schema::application_id));
    db_->exec(fmt::format("PRAGMA user_version={}", schema::version));
}

/// A shelf of an older version gets what it lacks.
void ShelfWriter::bring_up() {
    const int version = db_->execAndGet("PRAGMA user_version").getInt();
    if (version >= schema::version) return;
    if (version == 1) {
        db_->exec(schema::upgrade_from_1);
        db_->exec(schema::create_sweep);
    }
    if (version <= 2) db_->exec(schema::upgrade_from_2);
    if (version <= 3) db_->exec(schema::upgrade_from_3);
    if (version <= 4) db_->exec(schema::upgrade_from_4);
    if (version <= 5) {
        db_->exec(schema::upgrade_from_5);
        db_->exec(schema::create_jobs);
    } else {
        db_->exec(schema::upgrade_jobs_from_7);
    }
    if (version <= 6) {
        db_->exec(schema::upgrade_from_6);
        db_->exec(schema::create_looking);
    }
    db_->exec(schema::upgrade_from_7);
    db_->exec(schema::create_exported);
    db_->exec("DROP VIEW IF EXISTS listing");
    db_->exec(schema::create_listing);
    db_->exec(fmt::format("PRAGMA user_version={}", schema::version));
    change_state([&](ScanState& state) { state.brought_up_from = version; });
}

void ShelfWriter::commit() {
    db_->exec("COMMIT");
    committed_ = true;
    // A moment in which another terminal can set marks.
    std::this_thread::sleep_for(std::chrono::milliseconds(2));
    db_->exec("BEGIN IMMEDIATE");
    last_commit_ = std::chrono::steady_clock::now();
}

void ShelfWriter::tick() {
    if (++rows_ % rows_a_look == 0 && std::chrono::steady_clock::now() - last_commit_ > batch_time) commit();
}

void ShelfWriter::set_source(const SourceRecord& source, const std::vector<SourceSample>& samples) {
    db_->exec("DELETE FROM source");
    SQLite::Statement s(*db_, "INSERT INTO source VALUES(?,?,?)");
    s.bind(1, source.path);
    s.bind(2, static_cast<std::int64_t>(source.size));
    s.bind(3, source.sector_size);
    s.exec();
    set_samples(samples);
}

void ShelfWriter::set_samples(const std::vector<SourceSample>& samples) {
    db_->exec("DELETE FROM source_samples");
    SQLite::Statement sample(*db_, "INSERT INTO source_samples VALUES(?,?,?)");
    for (const auto& x : samples) {
        sample.reset();
        sample.bind(1, static_cast<std::int64_t>(x.range.offset));
        sample.bind(2, static_cast<std::int64_t>(x.range.length));
        sample.bind(3, x.sha256);
        sample.exec();
    }
}

std::vector<SourceSample> ShelfWriter::samples() const {
    return read_samples(*db_);
}

void ShelfWriter::change_state(const std::function<void(ScanState&)>& change) {
    change(state_);
    write_scan_state(*db_, state_);
}

namespace {
/// Folders have no rating to wait for; nor have live files that lie where they say, unless something there
/// cannot be read.
Rated rated_when_added(const Entry& e, const Rating& r) {
    const bool as_it_stays =
        e.origin == Origin::live && e.layout == Layout::known && r.grade == Grade::likely;
    return e.is_dir || as_it_stays ? Rated::yes : Rated::not_yet;
}
}  // namespace

std::int64_t ShelfWriter::next_id() {
    return next_id_++;
}

void ShelfWriter::add_entry(std::int64_t id, int volume, std::int64_t folder, const Entry& e,
                            const Sorting& sorting, const Rating& r) {
    auto& s = statements_->entry;
    const auto evidence = pack_evidence(e.evidence);
    const auto earlier_names = pack_earlier_names(e.evidence);
    int i = 0;
    s.bind(++i, id);
    if (volume == in_no_volume) {
        s.bind(++i);
    } else {
        s.bind(++i, volume);
    }
    s.bind(++i, folder);
    s.bind(++i, static_cast<int>(e.origin));
    s.bindNoCopy(++i, e.name);
    bind_optional_text(s, ++i, e.stream);
    s.bind(++i, static_cast<int>(e.name_certainty));
    s.bind(++i, e.is_dir ? 1 : 0);
    s.bind(++i, e.system ? 1 : 0);
    s.bind(++i, e.binned ? 1 : 0);
    bind_optional_text(s, ++i, e.first_path);
    s.bind(++i, static_cast<int>(sorting.kind));
    s.bindNoCopy(++i, sorting.ext);
    s.bind(++i, static_cast<std::int64_t>(e.size));
    s.bind(++i, static_cast<int>(r.grade));
    s.bind(++i, r.chance);
    s.bind(++i, r.left);
    s.bind(++i, static_cast<int>(e.layout));
    bind_time(s, ++i, e.created);
    bind_time(s, ++i, e.modified);
    bind_time(s, ++i, e.accessed);
    bind_time(s, ++i, e.deleted);
    s.bind(++i, pack_zones(e.created, e.modified, e.accessed, e.deleted));
    s.bind(++i, e.attributes);
    s.bind(++i, claim_rank(e));
    s.bind(++i, static_cast<std::int64_t>(e.key.a));
    s.bind(++i, static_cast<std::int64_t>(e.key.b));
    bind_blob(s, ++i, evidence);
    const bool dated = e.created || e.modified || e.accessed || e.deleted;
    s.bind(++i, static_cast<int>(!dated                                    ? Dates::none
                                 : has_fact(e.evidence, Fact::date_argued) ? Dates::argued
                                 : has_fact(e.evidence, Fact::date_inside) ? Dates::inside
                                                                           : Dates::recorded));
    s.bind(++i, e.helper ? 1 : 0);
    if (e.start) {
        s.bind(++i, static_cast<std::int64_t>(*e.start));
    } else {
        s.bind(++i);
    }
    bind_optional_text(s, ++i, earlier_names);
    if (e.link) {
        s.bindNoCopy(++i, *e.link);
    } else {
        s.bind(++i);
    }
    s.bind(++i, static_cast<int>(rated_when_added(e, r)));
    s.exec();
    s.reset();
    if (!e.pieces.empty() || !e.claims.empty()) {
        const auto pieces = pack_pieces(e.pieces), claims = pack_ranges(e.claims);
        auto& c = statements_->content;
        c.bind(1, id);
        bind_blob(c, 2, pieces);
        bind_blob(c, 3, claims);
        c.exec();
        c.reset();
    }
    if (watched_ && !e.is_dir && watched_(sorting.ext)) ++watched_count_;
    tick();
}

void ShelfWriter::add_folder(std::int64_t id, int volume, const std::string& path) {
    auto& s = statements_->folder;
    s.bind(1, id);
    s.bind(2, volume);
    s.bindNoCopy(3, path);
    s.exec();
    s.reset();
    tick();
}

void ShelfWriter::move_entry(std::int64_t id, std::int64_t folder) {
    SQLite::Statement s(*db_, "UPDATE entries SET folder = ? WHERE id = ?");
    s.bind(1, folder);
    s.bind(2, id);
    s.exec();
}

void ShelfWriter::add_in_use(int volume, const ByteRange& range) {
    auto& s = statements_->in_use;
    s.bind(1, volume);
    s.bind(2, static_cast<std::int64_t>(range.offset));
    s.bind(3, static_cast<std::int64_t>(range.length));
    s.exec();
    s.reset();
    tick();
}

void ShelfWriter::add_diagnostic(int volume, const std::string& sentence) {
    SQLite::Statement s(*db_, "INSERT INTO diagnostics(volume, sentence) VALUES(?,?)");
    s.bind(1, volume);
    s.bind(2, sentence);
    s.exec();
}

void ShelfWriter::add_remark(const std::string& sentence) {
    SQLite::Statement s(*db_,
                        "INSERT INTO diagnostics(volume, sentence) SELECT 0, ?1 WHERE NOT EXISTS (SELECT 1 "
                        "FROM diagnostics WHERE volume = 0 AND sentence = ?1)");
    s.bind(1, sentence);
    s.exec();
}

void ShelfWriter::set_unreadable(const Source& source) {
    db_->exec("DELETE FROM unreadable");
    SQLite::Statement s(*db_, "INSERT INTO unreadable VALUES(?,?,?)");
    const auto add = [&](const ByteRange& r, bool not_copied) {
        s.reset();
        s.bind(1, static_cast<std::int64_t>(r.offset));
        s.bind(2, static_cast<std::int64_t>(r.length));
        s.bind(3, not_copied);
        s.exec();
    };
    for (const auto& r : source.unreadable().ranges()) {
        for (const auto& good : source.not_copied().gaps_within(r)) add(good, false);
    }
    for (const auto& r : source.not_copied().ranges()) add(r, true);
}

void ShelfWriter::clear_same_content() {
    db_->exec("DELETE FROM same_content");
}

void ShelfWriter::add_same_content(const std::vector<std::pair<std::int64_t, bool>>& group) {
    SQLite::Statement s(*db_, "INSERT OR REPLACE INTO same_content VALUES(?,?,?)");
    for (const auto& [entry, live] : group) {
        s.reset();
        s.bind(1, entry);
        s.bind(2, group.front().first);
        s.bind(3, live ? 1 : 0);
        s.exec();
    }
}

}  // namespace undershelf
