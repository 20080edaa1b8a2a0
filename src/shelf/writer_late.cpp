// The part of the writer that changes entries after they were added, which their keys are known of only.

#include "shelf/blobs.hpp"
#include "shelf/packing.hpp"
#include "shelf/writer.hpp"

namespace undershelf {

namespace {

ByteVector copy_of(Bytes bytes) {
    return {bytes.begin(), bytes.end()};
}

/// Calls `visit(row, position)` for the entries of a volume that have one of these keys, by entry; `position`
/// is that of the key. The row has id, evidence, position and pieces. Entries cannot be changed while it
/// runs.
template <class Late, class Visit>
void for_each_late(SQLite::Database& db, int volume, const std::vector<std::pair<EntryKey, Late>>& late,
                   Visit visit) {
    // Few entries change late, so a temporary index over just their keys is cheaper than one over all.
    db.exec("CREATE TEMP TABLE late(key_a INTEGER, key_b INTEGER, position INTEGER)");
    {
        SQLite::Statement s(db, "INSERT INTO late VALUES(?,?,?)");
        for (std::size_t i = 0; i < late.size(); ++i) {
            s.reset();
            s.bind(1, static_cast<std::int64_t>(late[i].first.a));
            s.bind(2, static_cast<std::int64_t>(late[i].first.b));
            s.bind(3, static_cast<std::int64_t>(i));
            s.exec();
        }
        db.exec("CREATE INDEX late_key ON late(key_a, key_b)");
        SQLite::Statement q(
            db,
            "SELECT e.id, e.evidence, l.position, c.pieces FROM entries e JOIN late l ON l.key_a = "
            "e.key_a AND l.key_b = e.key_b LEFT JOIN contents c ON c.entry = e.id WHERE e.volume = ? "
            "ORDER BY e.id, l.position");
        q.bind(1, volume);
        while (q.executeStep()) visit(q, static_cast<std::size_t>(q.getColumn(2).getInt64()));
    }
    db.exec("DROP TABLE late");
}

}  // namespace

void ShelfWriter::add_evidence(int volume, const std::vector<std::pair<EntryKey, Evidence>>& late) {
    if (late.empty()) return;
    struct Update {
        std::int64_t id;
        ByteVector evidence;
        bool renamed = false;
    };
    std::vector<Update> updates;
    for_each_late(*db_, volume, late, [&](SQLite::Statement& q, std::size_t position) {
        const auto id = q.getColumn(0).getInt64();
        if (updates.empty() || updates.back().id != id) updates.push_back({id, copy_of(blob_in(q, 1))});
        auto& update = updates.back();
        const auto more = pack_evidence({late[position].second});
        update.evidence.insert(update.evidence.end(), more.begin(), more.end());
        update.renamed |= late[position].second.fact == Fact::old_name;
    });
    SQLite::Statement u(*db_, "UPDATE entries SET evidence = ? WHERE id = ?");
    SQLite::Statement n(*db_, "UPDATE entries SET earlier_names = ? WHERE id = ?");
    for (const auto& [id, evidence, renamed] : updates) {
        u.reset();
        bind_blob(u, 1, evidence);
        u.bind(2, id);
        u.exec();
        if (!renamed) continue;
        n.reset();
        const auto names = pack_earlier_names(unpack_evidence(evidence));
        bind_optional_text(n, 1, names);
        n.bind(2, id);
        n.exec();
    }
}

void ShelfWriter::lay_anew(int volume, const std::vector<std::pair<EntryKey, Relayout>>& layouts) {
    if (layouts.empty()) return;
    struct Update {
        std::int64_t id;
        ByteVector evidence, pieces, claims;
    };
    std::vector<Update> updates;
    for_each_late(*db_, volume, layouts, [&](SQLite::Statement& q, std::size_t position) {
        const auto& layout = layouts[position].second;
        auto evidence = unpack_evidence(blob_in(q, 1));
        replace_layout_evidence(evidence, layout.evidence);
        updates.push_back({q.getColumn(0).getInt64(), pack_evidence(evidence),
                           pack_pieces(pieces_in_ranges(unpack_pieces(blob_in(q, 3)), layout.ranges)),
                           pack_ranges(layout.ranges)});
    });
    SQLite::Statement e(*db_, "UPDATE entries SET evidence = ? WHERE id = ?");
    SQLite::Statement c(*db_, "UPDATE contents SET pieces = ?, claims = ? WHERE entry = ?");
    for (const auto& u : updates) {
        e.reset();
        bind_blob(e, 1, u.evidence);
        e.bind(2, u.id);
        e.exec();
        c.reset();
        bind_blob(c, 1, u.pieces);
        bind_blob(c, 2, u.claims);
        c.bind(3, u.id);
        c.exec();
    }
}

namespace {
void bind_details(SQLite::Statement& u, int first, const Check& check) {
    const auto& d = check.details;
    bind_optional_text(u, first, d.pixels);
    if (d.seconds) u.bind(first + 1, *d.seconds);
    if (d.pages) u.bind(first + 2, *d.pages);
    bind_optional_text(u, first + 3, check.title);
    bind_optional_text(u, first + 4, d.camera);
}
}  // namespace

void ShelfWriter::set_check(std::int64_t entry, const std::optional<Check>& check, Kind kind) {
    SQLite::Statement q(*db_, "SELECT evidence FROM entries WHERE id = ?");
    q.bind(1, entry);
    if (!q.executeStep()) return;
    auto evidence = unpack_evidence(blob_in(q, 0));
    std::erase_if(evidence, [](const Evidence& e) {
        return e.fact == Fact::checked_whole || e.fact == Fact::checked_broken ||
               e.fact == Fact::checked_cut || e.fact == Fact::title_inside || e.fact == Fact::odd_head;
    });
    if (check && check->finished)
        evidence.push_back({check->complete ? Fact::checked_whole
                            : check->cut    ? Fact::checked_cut
                                            : Fact::checked_broken,
                            check->holds_to, static_cast<std::uint64_t>(check->strength),
                            check->complete ? std::string(check->format) : check->why});
    if (check && check->odd_head) evidence.push_back({Fact::odd_head, 0, 0, {}});
    if (check && !check->title.empty()) evidence.push_back({Fact::title_inside, 0, 0, check->title});
    const auto packed = pack_evidence(evidence);
    SQLite::Statement u(*db_,
                        "UPDATE entries SET format = ?, checked = ?, complete = ?, holds_to = ?, proven_to = "
                        "?, evidence = ?, "
                        "kind = ?, pixels = ?, seconds = ?, pages = ?, title = ?, camera = ? WHERE id = ?");
    if (check) {
        u.bind(1, std::string(check->format));
        // A check that was not finished says what is there, and no more.
        if (check->finished) {
            u.bind(2, static_cast<int>(check->strength));
            u.bind(3, check->complete ? 1 : 0);
            u.bind(4, static_cast<std::int64_t>(check->holds_to));
            u.bind(5, static_cast<std::int64_t>(check->proven_to));
        }
    } else {
        // Looked at, and of no format that is known.
        u.bind(2, static_cast<int>(Strength::none));
    }
    bind_blob(u, 6, packed);
    u.bind(7, static_cast<int>(kind));
    if (check) bind_details(u, 8, *check);
    u.bind(13, entry);
    u.exec();
    tick();
}

void ShelfWriter::set_mended(std::int64_t entry, std::uint64_t size, const std::vector<ByteRange>& ranges,
                             const Evidence& evidence) {
    SQLite::Statement q(*db_, "SELECT evidence FROM entries WHERE id = ?");
    q.bind(1, entry);
    if (!q.executeStep()) return;
    auto all = unpack_evidence(blob_in(q, 0));
    replace_layout_evidence(all, {evidence});
    // Its end is known now.
    std::erase_if(all, [](const Evidence& e) { return e.fact == Fact::cut_off; });
    std::vector<Piece> pieces;
    std::uint64_t at = 0;
    for (const auto& range : ranges) {
        Piece piece;
        piece.kind = PieceKind::stored;
        piece.known = false;
        piece.offset = at;
        piece.length = range.length;
        piece.source = range.offset;
        pieces.push_back(piece);
        at += range.length;
    }
    SQLite::Statement e(*db_, "UPDATE entries SET evidence = ?, size = ?, layout = ? WHERE id = ?");
    const auto packed = pack_evidence(all);
    bind_blob(e, 1, packed);
    e.bind(2, static_cast<std::int64_t>(size));
    e.bind(3, static_cast<int>(Layout::assumed));
    e.bind(4, entry);
    e.exec();
    SQLite::Statement c(*db_, "UPDATE contents SET pieces = ?, claims = ? WHERE entry = ?");
    const auto packed_pieces = pack_pieces(pieces), packed_ranges = pack_ranges(ranges);
    bind_blob(c, 1, packed_pieces);
    bind_blob(c, 2, packed_ranges);
    c.bind(3, entry);
    c.exec();
    tick();
}

}  // namespace undershelf
