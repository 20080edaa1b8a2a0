// The part of the writer that keeps what a sweep finds, and how far it came.

#include "shelf/blobs.hpp"
#include "shelf/traces.hpp"
#include "shelf/writer.hpp"

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

}  // namespace undershelf
