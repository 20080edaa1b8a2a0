// The part of the writer that keeps what a sweep finds, and how far it came; and what need not be looked at.

#include <fmt/format.h>

#include "shelf/blobs.hpp"
#include "shelf/packing.hpp"
#include "shelf/sql_words.hpp"
#include "shelf/traces.hpp"
#include "shelf/writer.hpp"
#include "volume/pieces.hpp"

namespace undershelf {

ShelfWriter::Checkpoint ShelfWriter::checkpoint() const {
    Checkpoint out;
    SQLite::Statement q(*db_, "SELECT swept, settled FROM checkpoint");
    if (q.executeStep()) {
        out.swept = static_cast<std::uint64_t>(q.getColumn(0).getInt64());
        out.settled = q.getColumn(1).getInt() != 0;
    }
    SQLite::Statement l(*db_, "SELECT family, kind, traces FROM traces_left_out");
    while (l.executeStep())
        out.left_out[{l.getColumn(0).getString(), l.getColumn(1).getUInt()}] =
            static_cast<std::uint64_t>(l.getColumn(2).getInt64());
    return out;
}

void ShelfWriter::set_checkpoint(const Checkpoint& checkpoint) {
    db_->exec("DELETE FROM checkpoint; DELETE FROM traces_left_out");
    SQLite::Statement s(*db_, "INSERT INTO checkpoint VALUES(?,?)");
    s.bind(1, static_cast<std::int64_t>(checkpoint.swept));
    s.bind(2, checkpoint.settled ? 1 : 0);
    s.exec();
    SQLite::Statement l(*db_, "INSERT INTO traces_left_out VALUES(?,?,?)");
    for (const auto& [what, traces] : checkpoint.left_out) {
        l.reset();
        l.bind(1, what.first);
        l.bind(2, what.second);
        l.bind(3, static_cast<std::int64_t>(traces));
        l.exec();
    }
}

void ShelfWriter::drop_traces(const RangeSet& where) {
    SQLite::Statement s(*db_, "DELETE FROM traces WHERE offset >= ? AND offset < ?");
    for (const auto& r : where.ranges()) {
        s.bind(1, static_cast<std::int64_t>(r.offset));
        s.bind(2, static_cast<std::int64_t>(r.end()));
        s.exec();
        s.reset();
    }
}

void ShelfWriter::add_traces(std::string_view family, const std::vector<Trace>& traces) {
    if (traces.empty()) return;
    SQLite::Statement s(*db_, "INSERT OR REPLACE INTO traces VALUES(?,?,?,?,?,?)");
    const std::string name(family);
    for (const auto& t : traces) {
        s.bind(1, name);
        s.bind(2, t.kind);
        s.bind(3, static_cast<std::int64_t>(t.offset));
        s.bind(4, static_cast<std::int64_t>(t.a));
        s.bind(5, static_cast<std::int64_t>(t.b));
        bind_blob(s, 6, t.data);
        s.exec();
        s.reset();
    }
}

std::unique_ptr<TraceStore> ShelfWriter::traces(std::string_view family, const RangeSet& left_out) const {
    return std::make_unique<ShelfTraces>(*db_, family, left_out);
}

// What is somebody's now, so that traces in it are no former volume's.

namespace {
/// Appends the contents of live entries that fulfil a condition.
void append_live(SQLite::Database& db, const std::string& condition, std::vector<ByteRange>& out) {
    SQLite::Statement q(
        db, worded(fmt::format("SELECT e.is_dir, c.claims, c.pieces FROM contents c JOIN entries e ON "
                               "e.id = c.entry WHERE e.origin = #live AND {}",
                               condition)));
    while (q.executeStep()) {
        if (q.getColumn(0).getInt()) {
            for (const auto& r : unpack_ranges(blob_in(q, 1))) out.push_back(r);
            continue;
        }
        // After a file's end is what was there before it.
        for_each_source_range(unpack_pieces(blob_in(q, 2)),
                              [&](const ByteRange& source, const ByteRange&) { out.push_back(source); });
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
