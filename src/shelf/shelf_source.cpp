// What a shelf knows of its source: which it is, and what of it could not be read.

#include <fmt/format.h>

#include "base/error.hpp"
#include "shelf/shelf.hpp"

namespace undershelf {

namespace {

RangeSet unreadable_rows(SQLite::Database& db, const std::string& where) {
    std::vector<ByteRange> out;
    SQLite::Statement q(db, "SELECT offset, length FROM unreadable" + where);
    const auto number = [&](int column) {
        return static_cast<std::uint64_t>(q.getColumn(column).getInt64());
    };
    while (q.executeStep()) out.push_back({number(0), number(1)});
    return RangeSet(std::move(out));
}

}  // namespace

SourceRecord Shelf::source() const {
    SQLite::Statement query(*db_, "SELECT path, size, sector_size FROM source");
    if (!query.executeStep())
        throw Error(
            Trouble::input,
            fmt::format("The shelf {} does not say what it was made from; scan the source again.", path_));
    return {query.getColumn(0).getString(), static_cast<std::uint64_t>(query.getColumn(1).getInt64()),
            query.getColumn(2).getUInt()};
}

std::vector<SourceSample> read_samples(SQLite::Database& db) {
    std::vector<SourceSample> out;
    SQLite::Statement q(db, "SELECT offset, length, sha256 FROM source_samples ORDER BY offset");
    while (q.executeStep()) {
        out.push_back({{static_cast<std::uint64_t>(q.getColumn(0).getInt64()),
                        static_cast<std::uint64_t>(q.getColumn(1).getInt64())},
                       q.getColumn(2).getString()});
    }
    return out;
}

RangeSet Shelf::unreadable() const {
    return unreadable_rows(*db_, "");
}

RangeSet Shelf::not_copied() const {
    return unreadable_rows(*db_, " WHERE not_copied = 1");
}

RangeSet Shelf::unreadable_for_good() const {
    return unreadable_rows(*db_, " WHERE not_copied = 0");
}

}  // namespace undershelf
