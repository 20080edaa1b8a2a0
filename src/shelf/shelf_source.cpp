// What a shelf knows of its source: which it is, and what of it could not be read.

#include <fmt/format.h>

#include "base/error.hpp"
#include "base/sha256.hpp"
#include "shelf/database.hpp"
#include "shelf/shelf.hpp"

namespace undershelf {

namespace {

/// Of the first two columns. Its end is a number that a source can have.
ByteRange range_in(SQLite::Statement& q, SQLite::Database& db) {
    constexpr std::int64_t most = 1ll << 62;
    const auto offset = q.getColumn(0).getInt64(), length = q.getColumn(1).getInt64();
    if (offset < 0 || length < 0 || offset > most || length > most)
        damaged_shelf(db.getFilename(), fmt::format("it speaks of {} bytes at {}", length, offset));
    return {static_cast<std::uint64_t>(offset), static_cast<std::uint64_t>(length)};
}

RangeSet unreadable_rows(SQLite::Database& db, const std::string& where) {
    std::vector<ByteRange> out;
    SQLite::Statement q(db, "SELECT offset, length FROM unreadable" + where);
    while (q.executeStep()) out.push_back(range_in(q, db));
    return RangeSet(std::move(out));
}

}  // namespace

/// Of when its first scan began: to a ten-millionth of a second.
std::string Shelf::identity() const {
    const auto all = scans();
    constexpr std::size_t digits = 16;
    return sha256_of(fmt::format("{} {}", source().size, all.empty() ? "" : all.front().started))
        .substr(0, digits);
}

SourceRecord Shelf::source() const {
    SQLite::Statement query(*db_, "SELECT path, size, sector_size FROM source");
    if (!query.executeStep())
        throw Error(
            Trouble::input,
            fmt::format("The shelf {} does not say what it was made from; scan the source again.", path_));
    const auto size = query.getColumn(1).getInt64(), sector = query.getColumn(2).getInt64();
    if (size <= 0 || sector < 512 || sector > (64 << 10))
        damaged_shelf(path_, fmt::format("its source has {} bytes, and sectors of {}", size, sector));
    return {query.getColumn(0).getString(), static_cast<std::uint64_t>(size),
            static_cast<std::uint32_t>(sector)};
}

std::vector<SourceSample> read_samples(SQLite::Database& db) {
    std::vector<SourceSample> out;
    SQLite::Statement q(db, "SELECT offset, length, sha256 FROM source_samples ORDER BY offset");
    while (q.executeStep()) {
        const auto range = range_in(q, db);
        if (range.length > longest_sample)
            damaged_shelf(db.getFilename(), fmt::format("it has a sample of {} bytes", range.length));
        out.push_back({range, q.getColumn(2).getString()});
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
