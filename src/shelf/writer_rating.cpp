// The part of the writer that the rating works with: every claim in the shelf, and every entry whose rating
// may change.

#include <fmt/format.h>

#include "base/slash_path.hpp"
#include "content/signature.hpp"
#include "shelf/blobs.hpp"
#include "shelf/packing.hpp"
#include "shelf/sql_words.hpp"
#include "shelf/writer.hpp"
#include "volume/pieces.hpp"

namespace undershelf {

namespace {
std::int64_t ticks_in(SQLite::Statement& q, int column) {
    const auto c = q.getColumn(column);
    return c.isNull() ? unknown_rank : c.getInt64();
}

/// The columns that both queries begin with, in the order of fill().
constexpr const char* rated_columns =
    "e.id, e.volume, e.key_a, e.key_b, e.origin, e.layout, e.rank, "
    "CASE WHEN e.link IS NULL THEN coalesce(e.first_path, e.name) ELSE '' END, e.is_dir, e.size";
constexpr int first_own_column = 10;

void fill(RatedEntry& row, SQLite::Statement& q) {
    row.id = q.getColumn(0).getInt64();
    row.volume = q.getColumn(1).getInt();
    row.identity = content_identity(row.volume, {static_cast<std::uint64_t>(q.getColumn(2).getInt64()),
                                                 static_cast<std::uint64_t>(q.getColumn(3).getInt64())});
    row.origin = static_cast<Origin>(q.getColumn(4).getInt());
    row.layout = static_cast<Layout>(q.getColumn(5).getInt());
    row.rank = q.getColumn(6).getInt64();
    row.ext = content_extension(name_in(q.getColumn(7).getText()));
    row.is_dir = q.getColumn(8).getInt() != 0;
    row.size = static_cast<std::uint64_t>(q.getColumn(9).getInt64());
}

/// What is not copied yet is no reason for a grade: it may be all right, or not.
Rated rated_by(const std::vector<Piece>& pieces, const RangeSet& not_copied) {
    return !not_copied.empty() && touch(pieces, not_copied) ? Rated::not_copied : Rated::yes;
}

/// One entry's rating. False when `rate` has none.
bool rate_row(SQLite::Statement& q, SQLite::Statement& u, const RangeSet& not_copied, Subject& s,
              const std::function<std::optional<Rating>(Subject&)>& rate) {
    const int i = first_own_column;
    s.evidence = unpack_evidence(blob_in(q, i));
    s.pieces = unpack_pieces(blob_in(q, i + 1));
    const Rating last{q.getColumn(i + 3).getDouble(), q.getColumn(i + 4).getDouble(),
                      static_cast<Grade>(q.getColumn(i + 2).getInt())};
    s.ext_made_up = q.getColumn(i + 5).getInt() == static_cast<int>(NameCertainty::made_up);
    s.deleted = ticks_in(q, i + 6);
    if (!q.getColumn(i + 7).isNull())
        s.check = CheckedContent{static_cast<Strength>(q.getColumn(i + 7).getInt()),
                                 q.getColumn(i + 8).getInt() != 0,
                                 static_cast<std::uint64_t>(q.getColumn(i + 9).getInt64())};
    const auto before = s.evidence;
    const auto rating = rate(s);
    if (!rating) return false;
    const auto rated = rated_by(s.pieces, not_copied);
    const auto rated_before = static_cast<Rated>(q.getColumn(i + 10).getInt());
    if (*rating == last && s.evidence == before && rated == rated_before) return true;
    const auto evidence = pack_evidence(s.evidence);
    u.bind(1, static_cast<int>(rating->grade));
    u.bind(2, rating->chance);
    u.bind(3, rating->left);
    bind_blob(u, 4, evidence);
    u.bind(5, static_cast<int>(rated));
    u.bind(6, s.id);
    u.exec();
    u.reset();
    return true;
}
}  // namespace

void ShelfWriter::for_each_holding_former(const std::function<void(const Holding&)>& visit) {
    SQLite::Statement q(*db_,
                        fmt::format("SELECT id, volume, size, holds_to FROM entries WHERE origin = {} AND "
                                    "complete = 1 AND checked >= {}",
                                    static_cast<int>(Origin::former), static_cast<int>(Strength::fair)));
    while (q.executeStep())
        visit({q.getColumn(0).getInt64(), q.getColumn(1).getInt(),
               static_cast<std::uint64_t>(q.getColumn(2).getInt64()),
               static_cast<std::uint64_t>(q.getColumn(3).getInt64())});
}

void ShelfWriter::for_each_claimant(const std::function<void(Claimant&)>& visit, const Progress& progress) {
    SQLite::Statement q(
        *db_, fmt::format("SELECT {}, e.created, e.modified, c.claims, e.evidence, coalesce(e.complete, 0), "
                          "coalesce(e.checked, 0), coalesce(e.holds_to, 0) "
                          "FROM contents c JOIN entries e ON e.id = c.entry",
                          rated_columns));
    for (std::uint64_t row = 0; q.executeStep(); ++row) {
        if (row % 4096 == 0 && progress.stopped()) return;
        Claimant c;
        fill(c, q);
        const int i = first_own_column;
        c.created = ticks_in(q, i);
        c.modified = ticks_in(q, i + 1);
        c.ranges = unpack_ranges(blob_in(q, i + 2));
        const CheckedContent check{static_cast<Strength>(q.getColumn(i + 5).getInt()),
                                   q.getColumn(i + 4).getInt() != 0,
                                   static_cast<std::uint64_t>(q.getColumn(i + 6).getInt64())};
        c.strong = check.strength >= Strength::strong;
        c.holds = check.complete;
        c.fails_weakly = !check.complete && check.strength == Strength::weak;
        const bool may_hold = check.proves(c.size, {});
        if (may_hold || c.origin == Origin::former ||
            (c.layout == Layout::assumed && c.origin != Origin::live)) {
            const auto evidence = unpack_evidence(blob_in(q, i + 3));
            c.verified = check.proves(c.size, evidence);
            c.steps_over_lost = has_fact(evidence, Fact::steps_over_lost);
            c.cut_off = has_fact(evidence, Fact::cut_off) && check.strength >= Strength::fair;
            c.chained = has_fact(evidence, Fact::chain_freed);
            c.mended = was_mended(evidence);
            c.contradicted = has_fact(evidence, Fact::content_contradicts);
            c.deleted_before = has_fact(evidence, Fact::deleted_before);
        }
        visit(c);
    }
    SQLite::Statement u(*db_, "SELECT volume, offset, length FROM in_use");
    while (u.executeStep()) {
        Claimant c;
        c.volume = u.getColumn(0).getInt();
        c.rank = live_rank;
        c.ranges = {{static_cast<std::uint64_t>(u.getColumn(1).getInt64()),
                     static_cast<std::uint64_t>(u.getColumn(2).getInt64())}};
        visit(c);
    }
}

void ShelfWriter::rate_all(const RangeSet& unreadable, const RangeSet& not_copied,
                           const std::function<std::optional<Rating>(Subject&)>& rate) {
    // Live files of a source that reads well keep the rating they were added with.
    SQLite::Statement q(
        *db_, worded(fmt::format(
                  "SELECT {}, e.evidence, c.pieces, e.grade, e.chance, e.share_left, "
                  "e.name_certainty, e.deleted, e.checked, e.complete, e.holds_to, e.rated FROM entries e "
                  "LEFT JOIN contents c ON c.entry = e.id "
                  "WHERE e.is_dir = 0{} ORDER BY e.id",
                  rated_columns,
                  unreadable.empty()
                      ? " AND (e.origin <> #live OR e.layout <> #known OR e.grade <> #likely OR e.rated <> 1)"
                      : "")));
    SQLite::Statement u(*db_,
                        "UPDATE entries SET grade=?, chance=?, share_left=?, evidence=?, rated=? WHERE id=?");
    const auto rate_rows = [&](bool watched) {
        q.reset();
        while (q.executeStep()) {
            Subject s;
            fill(s, q);
            if (watched_ && watched_(s.ext) != watched) continue;
            if (!rate_row(q, u, not_copied, s, rate)) return false;
        }
        return true;
    };
    if (watched_ && !rate_rows(true)) return;
    rate_rows(false);
}

}  // namespace undershelf
