// The part of the writer that is about contents that nothing names: where they may be, and how they are
// listed.

#include <fmt/format.h>

#include "shelf/blobs.hpp"
#include "shelf/packing.hpp"
#include "shelf/sql_words.hpp"
#include "shelf/writer_statements.hpp"
#include "volume/words.hpp"

namespace undershelf {

namespace {

/// Their keys mean places of the source, whatever volume is there.
const std::string realm = "unnamed";

}  // namespace

void ShelfWriter::for_each_named(const std::function<void(const NamedContent&)>& visit) const {
    SQLite::Statement q(
        *db_, worded("SELECT e.origin, e.is_dir, e.grade, e.size, e.holds_to, coalesce(e.complete, 0), "
                     "c.claims, c.pieces, e.evidence FROM contents c JOIN entries e ON e.id = c.entry "
                     "WHERE e.origin <> #unnamed"));
    while (q.executeStep()) {
        NamedContent c;
        c.origin = static_cast<Origin>(q.getColumn(0).getInt());
        c.is_dir = q.getColumn(1).getInt() != 0;
        c.grade = static_cast<Grade>(q.getColumn(2).getInt());
        c.size = static_cast<std::uint64_t>(q.getColumn(3).getInt64());
        if (!q.getColumn(4).isNull()) c.holds_to = static_cast<std::uint64_t>(q.getColumn(4).getInt64());
        c.complete = q.getColumn(5).getInt() != 0;
        c.claims = unpack_ranges(blob_in(q, 6));
        if (c.origin != Origin::live) {
            c.pieces = unpack_pieces(blob_in(q, 7));
            c.contradicts = has_fact(unpack_evidence(blob_in(q, 8)), Fact::content_contradicts);
        }
        visit(c);
    }
    SQLite::Statement u(*db_, "SELECT offset, length FROM in_use");
    while (u.executeStep()) {
        NamedContent c;
        c.claims = {{static_cast<std::uint64_t>(u.getColumn(0).getInt64()),
                     static_cast<std::uint64_t>(u.getColumn(1).getInt64())}};
        visit(c);
    }
}

void ShelfWriter::take_out_unnamed(std::uint64_t from) {
    // Their folders' keys are after all places, and negative to the database.
    const auto those =
        worded(fmt::format("origin = #unnamed AND (key_a >= {0} OR ({0} = 0 AND is_dir = 1))",
                           std::min<std::uint64_t>(from, std::numeric_limits<std::int64_t>::max())));
    db_->exec(
        fmt::format("INSERT OR REPLACE INTO set_aside SELECT id, coalesce(volume, 0), '{}', key_a, key_b, "
                    "'', '', NULL FROM entries WHERE {}",
                    realm, those));
    for (const char* sql : {"DELETE FROM contents WHERE entry IN (SELECT id FROM entries WHERE {})",
                            "DELETE FROM folders WHERE id IN (SELECT id FROM entries WHERE {})",
                            "DELETE FROM entries WHERE {}"})
        db_->exec(fmt::format(fmt::runtime(sql), those));
    unnamed_folders_.clear();
    remember_ids();
}

/// `unnamed`, and in it one for each kind.
std::int64_t ShelfWriter::unnamed_folder(int volume, Kind kind) {
    const auto folder = [&](std::int64_t above, const std::string& name, const std::string& path,
                            std::uint64_t number) {
        auto& id = unnamed_folders_[{volume, path}];
        if (id != 0) return id;
        SQLite::Statement q(
            *db_,
            worded(
                "SELECT id FROM entries WHERE origin = #unnamed AND is_dir = 1 AND folder = ? AND name = ?"));
        q.bind(1, above);
        q.bind(2, name);
        if (q.executeStep()) return id = q.getColumn(0).getInt64();
        Entry e;
        // No content is there.
        e.key = {~0ull - number, static_cast<std::uint64_t>(volume)};
        e.origin = Origin::unnamed;
        e.name = name;
        e.name_certainty = NameCertainty::made_up;
        e.is_dir = true;
        id = id_in(realm, e.key, {}, {});
        add_entry(id, volume, above, e, {}, {});
        add_folder(id, in_no_volume, path);
        return id;
    };
    const std::string top = "unnamed", name(word(kind));
    const auto above = folder(-volume, top, top, 0);
    return folder(above, name, top + "/" + name, 1 + static_cast<std::uint64_t>(kind));
}

void ShelfWriter::merge_unnamed_copies() {
    db_->exec(worded(
        "DROP TABLE IF EXISTS temp.named; DROP TABLE IF EXISTS temp.twins;"
        "CREATE TEMP TABLE named AS SELECT s.content, min(s.entry) AS entry FROM same_content s JOIN entries "
        "e "
        "ON e.id = s.entry WHERE e.origin <> #unnamed GROUP BY s.content;"
        "CREATE INDEX temp.named_content ON named(content);"
        "CREATE TEMP TABLE twins AS SELECT e.id AS old, n.entry AS new FROM same_content s JOIN entries e ON "
        "e.id = s.entry JOIN named n ON n.content = s.content WHERE e.origin = #unnamed"));
    hand_marks_on(*db_, "twins");
    db_->exec(
        fmt::format("INSERT OR REPLACE INTO set_aside SELECT e.id, coalesce(e.volume, 0), '{}', e.key_a, "
                    "e.key_b, '', '', t.new FROM twins t JOIN entries e ON e.id = t.old",
                    realm));
    for (const char* table : {"contents", "same_content"})
        db_->exec(fmt::format("DELETE FROM {} WHERE entry IN (SELECT old FROM twins)", table));
    db_->exec("DELETE FROM entries WHERE id IN (SELECT old FROM twins)");
    // Folders that held nothing else, those of a kind before the one that they are in.
    for (int level = 0; level < 2; ++level) {
        db_->exec(worded(
            "DROP TABLE IF EXISTS temp.twins; CREATE TEMP TABLE twins AS SELECT id AS old FROM entries WHERE "
            "origin = #unnamed AND is_dir = 1 AND id NOT IN (SELECT folder FROM entries WHERE origin = "
            "#unnamed)"));
        db_->exec("DELETE FROM folders WHERE id IN (SELECT old FROM twins)");
        db_->exec("DELETE FROM entries WHERE id IN (SELECT old FROM twins)");
    }
    db_->exec("DROP TABLE temp.twins; DROP TABLE temp.named");
    unnamed_folders_.clear();
}

void ShelfWriter::add_unnamed(int volume, const Entry& entry, const Sorting& sorting, const Rating& rating,
                              std::string_view format, const std::optional<Check>& check) {
    const auto id = id_in(realm, entry.key, {}, {});
    add_entry(id, volume, unnamed_folder(volume, sorting.kind), entry, sorting, rating);
    if (check) set_check(id, check, sorting.kind);
    SQLite::Statement s(*db_, "UPDATE entries SET format = ? WHERE id = ?");
    s.bind(1, std::string(format));
    s.bind(2, id);
    s.exec();
}

}  // namespace undershelf
