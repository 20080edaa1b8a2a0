// What a shelf counts of its entries.

#include <fmt/format.h>

#include <limits>

#include "shelf/database.hpp"
#include "shelf/shelf.hpp"
#include "shelf/sql_words.hpp"

namespace undershelf {

std::uint64_t Shelf::helpers() const {
    return static_cast<std::uint64_t>(
        db_->execAndGet("SELECT count(*) FROM entries WHERE helper = 1 AND is_dir = 0").getInt64());
}

std::uint64_t Shelf::copies() const {
    return static_cast<std::uint64_t>(
        db_->execAndGet(
               "SELECT count(*) FROM same_content s JOIN entries e ON e.id = s.entry WHERE s.live = 0 "
               "AND e.helper = 0 AND s.content IN (SELECT content FROM same_content WHERE live = 1)")
            .getInt64());
}

std::uint64_t Shelf::broken_live() const {
    SQLite::Statement q(
        *db_, worded("SELECT count(*) FROM entries WHERE origin = #live AND complete = 0 AND helper = 0"));
    q.executeStep();
    return static_cast<std::uint64_t>(q.getColumn(0).getInt64());
}

std::vector<std::pair<std::string, std::uint64_t>> Shelf::unchecked() const {
    SQLite::Statement q(
        *db_,
        worded(
            "SELECT ext, count(*) FROM entries WHERE origin <> #live AND is_dir = 0 AND size > 0 AND "
            "helper = 0 AND rated = 1 AND grade <> ? AND format IS NULL AND checked IS NULL AND link IS NULL "
            "GROUP BY ext"));
    q.bind(1, static_cast<int>(Grade::gone));
    std::vector<std::pair<std::string, std::uint64_t>> out;
    while (q.executeStep())
        out.emplace_back(q.getColumn(0).getString(), static_cast<std::uint64_t>(q.getColumn(1).getInt64()));
    return out;
}

std::pair<std::uint64_t, std::uint64_t> Shelf::lost_without_rating() const {
    SQLite::Statement q(
        *db_,
        worded("SELECT total(rated = 0), total(rated = 2) FROM entries WHERE origin <> #live AND is_dir = 0 "
               "AND helper = 0 AND rated <> 1"));
    q.executeStep();
    return {static_cast<std::uint64_t>(q.getColumn(0).getInt64()),
            static_cast<std::uint64_t>(q.getColumn(1).getInt64())};
}

std::uint64_t Shelf::stand_in_folders() const {
    SQLite::Statement q(*db_,
                        worded("SELECT count(*) FROM entries WHERE origin <> #unnamed AND is_dir = 1 AND "
                               "name_certainty = ?"));
    q.bind(1, static_cast<int>(NameCertainty::made_up));
    q.executeStep();
    return static_cast<std::uint64_t>(q.getColumn(0).getInt64());
}

std::optional<std::int64_t> Shelf::best_doubtful() const {
    SQLite::Statement q(
        *db_,
        worded("SELECT id FROM entries WHERE origin <> #live AND is_dir = 0 AND helper = 0 AND rated = 1 AND "
               "grade = ? ORDER BY chance DESC, id LIMIT 1"));
    q.bind(1, static_cast<int>(Grade::doubtful));
    return q.executeStep() ? std::optional(q.getColumn(0).getInt64()) : std::nullopt;
}

std::uint64_t Shelf::uncertain_names(NameCertainty certainty) const {
    SQLite::Statement q(
        *db_, worded("SELECT count(*) FROM entries WHERE origin <> #live AND is_dir = 0 AND helper = 0 AND "
                     "name_certainty = ?"));
    q.bind(1, static_cast<int>(certainty));
    q.executeStep();
    return static_cast<std::uint64_t>(q.getColumn(0).getInt64());
}

namespace {
/// A sum of sizes may be more than any number of bytes.
std::uint64_t bytes_from(double sum) {
    if (!(sum > 0)) return 0;
    return sum < 18446744073709551615.0 ? static_cast<std::uint64_t>(sum) : ~0ull;
}
}  // namespace

std::vector<Shelf::Tally> Shelf::tally(TallyBy by) const {
    const char* column = by == TallyBy::origin ? "origin" : by == TallyBy::kind ? "kind" : "volume";
    SQLite::Statement q(*db_,
                        worded(fmt::format("SELECT {0}, grade * (rated = 1) AS rating, is_dir, count(*), "
                                           "total(size) FROM entries WHERE "
                                           "system = 0 AND helper = 0{1} GROUP BY {0}, rating, is_dir",
                                           column, by == TallyBy::live_volume ? " AND origin = #live" : "")));
    std::vector<Tally> out;
    while (q.executeStep()) {
        const auto grade = q.getColumn(1).getInt64();
        if (grade < 0 || grade > static_cast<std::int64_t>(Grade::verified))
            damaged_shelf(path_, fmt::format("entries of it have the grade {}", grade));
        const auto key = q.getColumn(0).getInt64();
        const auto most = by == TallyBy::origin ? static_cast<int>(Origin::unnamed)
                          : by == TallyBy::kind ? static_cast<int>(Kind::link)
                                                : std::numeric_limits<int>::max();
        if (key < 0 || key > most)
            damaged_shelf(path_, fmt::format("entries of it have the {} {}", column, key));
        out.push_back({q.getColumn(0).getString(), static_cast<Grade>(grade), q.getColumn(2).getInt() != 0,
                       static_cast<std::uint64_t>(q.getColumn(3).getInt64()),
                       bytes_from(q.getColumn(4).getDouble())});
    }
    return out;
}

}  // namespace undershelf
