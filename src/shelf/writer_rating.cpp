// The part of the writer that the rating works with: every claim in the shelf, and every entry whose rating
// may change.

#include <fmt/format.h>

#include "shelf/blobs.hpp"
#include "shelf/packing.hpp"
#include "shelf/writer.hpp"

namespace undershelf {

namespace {
std::uint64_t identity_in(SQLite::Statement& q, int volume, int key_a) {
    return content_identity(q.getColumn(volume).getInt(),
                            {static_cast<std::uint64_t>(q.getColumn(key_a).getInt64()),
                             static_cast<std::uint64_t>(q.getColumn(key_a + 1).getInt64())});
}

std::int64_t ticks_in(SQLite::Statement& q, int column) {
    const auto c = q.getColumn(column);
    return c.isNull() ? unknown_rank : c.getInt64();
}
}  // namespace

void ShelfWriter::for_each_claimant(const std::function<void(const Claimant&)>& visit,
                                    const Progress& progress) {
    SQLite::Statement q(
        *db_,
        "SELECT e.id, e.volume, e.key_a, e.key_b, e.origin, e.layout, e.is_dir, e.size, e.ext, "
        "e.rank, e.created, e.modified, c.claims, e.evidence FROM contents c JOIN entries e ON e.id = "
        "c.entry");
    for (std::uint64_t row = 0; q.executeStep(); ++row) {
        if (row % 4096 == 0 && progress.stopped()) return;
        Claimant c;
        c.id = q.getColumn(0).getInt64();
        c.volume = q.getColumn(1).getInt();
        c.identity = identity_in(q, 1, 2);
        c.origin = static_cast<Origin>(q.getColumn(4).getInt());
        c.layout = static_cast<Layout>(q.getColumn(5).getInt());
        c.is_dir = q.getColumn(6).getInt() != 0;
        c.size = static_cast<std::uint64_t>(q.getColumn(7).getInt64());
        c.ext = q.getColumn(8).getString();
        c.rank = q.getColumn(9).getInt64();
        c.written = std::max(ticks_in(q, 10), ticks_in(q, 11));
        c.ranges = unpack_ranges(blob_in(q, 12));
        if (c.layout == Layout::assumed && c.origin != Origin::live)
            c.steps_over_lost = has_fact(unpack_evidence(blob_in(q, 13)), Fact::steps_over_lost);
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

void ShelfWriter::rate_all(const RangeSet& unreadable,
                           const std::function<std::optional<Rating>(Subject&)>& rate) {
    // Live files of a source that reads well keep the rating they were added with.
    SQLite::Statement q(
        *db_, fmt::format(
                  "SELECT e.id, e.volume, e.key_a, e.key_b, e.origin, e.layout, e.size, e.ext, e.rank, "
                  "e.evidence, c.pieces, e.grade, e.chance, e.share_left, e.name_certainty, e.deleted "
                  "FROM entries e LEFT JOIN contents c ON c.entry = e.id WHERE e.is_dir = 0{} ORDER BY e.id",
                  unreadable.empty() ? " AND (e.origin <> 0 OR e.layout <> 2 OR e.grade <> 4)" : ""));
    SQLite::Statement u(*db_, "UPDATE entries SET grade=?, chance=?, share_left=?, evidence=? WHERE id=?");
    while (q.executeStep()) {
        Subject s;
        s.id = q.getColumn(0).getInt64();
        s.volume = q.getColumn(1).getInt();
        s.identity = identity_in(q, 1, 2);
        s.origin = static_cast<Origin>(q.getColumn(4).getInt());
        s.layout = static_cast<Layout>(q.getColumn(5).getInt());
        s.size = static_cast<std::uint64_t>(q.getColumn(6).getInt64());
        s.ext = q.getColumn(7).getString();
        s.ext_made_up = q.getColumn(14).getInt() == static_cast<int>(NameCertainty::made_up);
        s.rank = q.getColumn(8).getInt64();
        s.deleted = ticks_in(q, 15);
        s.evidence = unpack_evidence(blob_in(q, 9));
        s.pieces = unpack_pieces(blob_in(q, 10));
        const auto before = s.evidence;
        const auto rating = rate(s);
        if (!rating) return;
        if (*rating == Rating{q.getColumn(12).getDouble(), q.getColumn(13).getDouble(),
                              static_cast<Grade>(q.getColumn(11).getInt())} &&
            s.evidence == before)
            continue;
        const auto evidence = pack_evidence(s.evidence);
        u.bind(1, static_cast<int>(rating->grade));
        u.bind(2, rating->chance);
        u.bind(3, rating->left);
        bind_blob(u, 4, evidence);
        u.bind(5, s.id);
        u.exec();
        u.reset();
    }
}

}  // namespace undershelf
