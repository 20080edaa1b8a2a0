// What a shelf counts of its entries: all of it in one pass over them.

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <map>

#include "base/saturating.hpp"
#include "shelf/database.hpp"
#include "shelf/entry_rows.hpp"
#include "shelf/shelf.hpp"

namespace undershelf {

namespace {

/// By what is counted, the grade, and whether it is a folder.
using Cells = std::map<std::tuple<std::int64_t, Grade, bool>, std::pair<std::uint64_t, std::uint64_t>>;

constexpr const char* counted_columns =
    "SELECT id, origin, coalesce(volume, 0), kind, grade, rated, is_dir, system, helper, size, "
    "name_certainty, chance, "
    "complete, format IS NULL AND checked IS NULL AND link IS NULL, ext FROM entries";

}  // namespace

struct Shelf::Counts {
    std::array<Cells, 4> tallies;  ///< by TallyBy
    std::uint64_t helpers = 0, broken_live = 0, waiting = 0, stand_ins = 0;
    std::array<std::uint64_t, 4> names{};  ///< of lost files, by NameCertainty
    std::map<std::string, std::uint64_t> unchecked;
    std::optional<std::int64_t> best_doubtful;
    double best_chance = -1;

    void take(const Rows& row, const std::string& path) {
        const auto in_bounds = [&](int column, auto last, const char* what) {
            const auto value = row.number(column);
            if (value < 0 || value > static_cast<std::int64_t>(last))
                damaged_shelf(path, fmt::format("entries of it have the {} {}", what, value));
            return static_cast<decltype(last)>(value);
        };
        const auto origin = in_bounds(1, Origin::unnamed, "origin");
        const auto rated = in_bounds(5, Rated::not_copied, "state of its rating");
        const auto certainty = in_bounds(10, NameCertainty::made_up, "name certainty");
        const auto said = in_bounds(4, Grade::verified, "grade");
        const auto grade = rated == Rated::yes ? said : Grade::none;
        const bool is_dir = row.number(6), helper = row.number(8), lost = origin != Origin::live;
        if (is_dir && origin != Origin::unnamed) stand_ins += certainty == NameCertainty::made_up;
        if (helper) {
            helpers += !is_dir;
            return;
        }
        if (!row.number(7)) {
            tally(TallyBy::origin, static_cast<std::int64_t>(origin), grade, is_dir, row);
            tally(TallyBy::kind, static_cast<std::int64_t>(in_bounds(3, Kind::link, "kind")), grade, is_dir,
                  row);
            tally(TallyBy::volume, row.number(2), grade, is_dir, row);
            if (!lost) tally(TallyBy::live_volume, row.number(2), grade, is_dir, row);
        }
        if (!lost) broken_live += !row.null(12) && row.number(12) == 0;
        if (lost && !is_dir) take_lost_file(row, grade, rated, certainty);
    }

  private:
    void tally(TallyBy by, std::int64_t key, Grade grade, bool is_dir, const Rows& row) {
        auto& [entries, bytes] = tallies.at(static_cast<std::size_t>(by))[{key, grade, is_dir}];
        ++entries;
        // A sum of sizes may be more than any number of bytes.
        bytes = saturating_add(bytes, static_cast<std::uint64_t>(std::max<std::int64_t>(row.number(9), 0)));
    }

    void take_lost_file(const Rows& row, Grade grade, Rated rated, NameCertainty certainty) {
        waiting += rated == Rated::not_copied;
        ++names.at(static_cast<std::size_t>(certainty));
        if (rated != Rated::yes) return;
        if (grade == Grade::doubtful && row.real(11) > best_chance) {
            best_chance = row.real(11);
            best_doubtful = row.number(0);
        }
        if (grade == Grade::gone || row.number(9) == 0 || !row.number(13)) return;
        std::string ext;
        row.text(14, ext);
        ++unchecked[ext];
    }
};

/// Asked of one shelf several times, it is worked out once.
const Shelf::Counts& Shelf::counts() const {
    if (counts_) return *counts_;
    auto out = std::make_shared<Counts>();
    Rows rows(*db_, counted_columns, {});
    while (rows.next()) out->take(rows, path_);
    counts_ = std::move(out);
    return *counts_;
}

std::uint64_t Shelf::helpers() const {
    return counts().helpers;
}

std::uint64_t Shelf::copies() const {
    return static_cast<std::uint64_t>(
        db_->execAndGet(
               "SELECT count(*) FROM same_content s JOIN entries e ON e.id = s.entry WHERE s.live = 0 "
               "AND e.helper = 0 AND s.content IN (SELECT content FROM same_content WHERE live = 1)")
            .getInt64());
}

std::uint64_t Shelf::broken_live() const {
    return counts().broken_live;
}

std::vector<std::pair<std::string, std::uint64_t>> Shelf::unchecked() const {
    const auto& by_ext = counts().unchecked;
    return {by_ext.begin(), by_ext.end()};
}

std::uint64_t Shelf::lost_not_copied() const {
    return counts().waiting;
}

std::uint64_t Shelf::stand_in_folders() const {
    return counts().stand_ins;
}

std::optional<std::int64_t> Shelf::best_doubtful() const {
    return counts().best_doubtful;
}

std::uint64_t Shelf::uncertain_names(NameCertainty certainty) const {
    return counts().names.at(static_cast<std::size_t>(certainty));
}

std::vector<Shelf::Tally> Shelf::tally(TallyBy by) const {
    std::vector<Tally> out;
    for (const auto& [cell, sums] : counts().tallies.at(static_cast<std::size_t>(by))) {
        const auto& [key, grade, is_dir] = cell;
        out.push_back({key, grade, is_dir, sums.first, sums.second});
    }
    return out;
}

}  // namespace undershelf
