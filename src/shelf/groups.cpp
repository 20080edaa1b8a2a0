#include "shelf/groups.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <unordered_map>

#include "base/saturating.hpp"
#include "shelf/database.hpp"
#include "shelf/entry_rows.hpp"
#include "shelf/folder_tree.hpp"

namespace undershelf {

namespace {

/// Every query begins with size and grade.
constexpr int key_column = 2;

const char* columns_for(GroupBy by) {
    switch (by) {
        case GroupBy::kind:
            return "e.kind";
        case GroupBy::ext:
            return "e.ext";
        case GroupBy::format:
            return "e.format";
        case GroupBy::folder:
            return "e.folder, coalesce(e.volume, 0), e.first_path";
        case GroupBy::volume:
            return "coalesce(e.volume, 0)";
        case GroupBy::origin:
            return "e.origin";
        case GroupBy::grade:
            return "e.grade * (e.rated = 1)";
        case GroupBy::year:
        case GroupBy::month:
            return "e.modified";
    }
    return "NULL";
}

void count(ShelfGroup& group, const Rows& rows) {
    ++group.files;
    group.bytes =
        saturating_add(group.bytes, static_cast<std::uint64_t>(std::max<std::int64_t>(rows.number(0), 0)));
    const auto grade = rows.number(1);
    if (grade >= 0 && grade < static_cast<std::int64_t>(group.by_grade.size()))
        ++group.by_grade[static_cast<std::size_t>(grade)];
}

void add(ShelfGroup& to, const ShelfGroup& more) {
    to.files += more.files;
    to.bytes = saturating_add(to.bytes, more.bytes);
    for (std::size_t i = 0; i < to.by_grade.size(); ++i) to.by_grade[i] += more.by_grade[i];
}

template <class Groups>
std::vector<ShelfGroup> sorted(Groups&& groups) {
    std::vector<ShelfGroup> out;
    out.reserve(groups.size());
    for (auto& [key, group] : groups) out.push_back(std::move(group));
    std::sort(out.begin(), out.end(), [](const ShelfGroup& a, const ShelfGroup& b) {
        return std::tie(a.absent, a.number, a.text) < std::tie(b.absent, b.number, b.text);
    });
    return out;
}

std::vector<ShelfGroup> by_text(Rows& rows) {
    std::unordered_map<std::string, ShelfGroup> groups;
    std::string text;
    while (rows.next()) {
        rows.text(key_column, text);
        const auto [it, fresh] = groups.try_emplace(text);
        if (fresh) {
            it->second.text = text;
            it->second.absent = text.empty();
        }
        count(it->second, rows);
    }
    return sorted(groups);
}

/// The highest number that means a word; nothing where numbers are what they are.
std::optional<std::int64_t> last_word(GroupBy by) {
    if (by == GroupBy::kind) return static_cast<std::int64_t>(Kind::link);
    if (by == GroupBy::origin) return static_cast<std::int64_t>(Origin::unnamed);
    if (by == GroupBy::grade) return static_cast<std::int64_t>(Grade::verified);
    return std::nullopt;
}

std::vector<ShelfGroup> by_number(Rows& rows, GroupBy by, const std::string& shelf) {
    const auto last = last_word(by);
    std::unordered_map<std::int64_t, ShelfGroup> groups;
    const bool dates = by == GroupBy::year || by == GroupBy::month;
    constexpr auto none = INT64_MIN;
    while (rows.next()) {
        auto number = rows.null(key_column) ? none : rows.number(key_column);
        if (dates && number != none) number = date_number(Timestamp{number, 0}, by);
        if (last && (number < 0 || number > *last))
            damaged_shelf(shelf, fmt::format("an entry of it has the kind, origin or grade {}", number));
        const auto [it, fresh] = groups.try_emplace(number);
        if (fresh) {
            it->second.number = number == none ? 0 : number;
            it->second.absent = number == none;
        }
        count(it->second, rows);
    }
    return sorted(groups);
}

std::vector<ShelfGroup> by_folder(Rows& rows, const Shelf& shelf, std::optional<unsigned> depth) {
    const FolderTree tree(shelf);
    std::vector<ShelfGroup> direct(tree.size());
    EntryPlace place;
    while (rows.next()) {
        place.folder = rows.number(key_column);
        place.volume = static_cast<int>(rows.number(key_column + 1));
        rows.text(key_column + 2, place.first_path);
        if (const auto i = tree.place_of(place); i != FolderTree::none) count(direct[i], rows);
    }
    // Two folders of one path are one group.
    std::map<std::pair<int, std::string>, ShelfGroup> groups;
    for (FolderTree::Index i = 0; i < tree.size(); ++i) {
        if (!direct[i].files) continue;
        auto path = tree.path(i, depth);
        auto& group = groups[{tree.at(i).volume, path}];
        group.number = tree.at(i).volume;
        group.deep = depth &&
                     static_cast<unsigned>(std::count(path.begin(), path.end(), '/')) + 1 == *depth &&
                     !path.empty();
        group.text = std::move(path);
        add(group, direct[i]);
    }
    return sorted(groups);
}

}  // namespace

std::int64_t date_number(const Timestamp& time, GroupBy by) {
    auto seconds = time.ticks / Timestamp::per_second;
    if (time.ticks % Timestamp::per_second < 0) --seconds;
    const auto date = civil_from_seconds(seconds);
    return by == GroupBy::year ? date.year : date.year * 100 + date.month;
}

std::vector<ShelfGroup> groups_of(const Shelf& shelf, const Selection& selection, GroupBy by,
                                  std::optional<unsigned> depth) {
    const auto where = shelf.condition_of(selection);
    Rows rows(shelf.database(),
              fmt::format("SELECT e.size, e.grade * (e.rated = 1), {} FROM {} WHERE e.is_dir = 0{}{}",
                          columns_for(by), entry_tables, where.text.empty() ? "" : " AND ", where.text),
              where.values);
    switch (by) {
        case GroupBy::ext:
        case GroupBy::format:
            return by_text(rows);
        case GroupBy::folder:
            return by_folder(rows, shelf, depth);
        default:
            return by_number(rows, by, shelf.path());
    }
}

}  // namespace undershelf
