#include "shelf/entry_rows.hpp"

#include <fmt/format.h>

#include "shelf/database.hpp"
#include "shelf/packing.hpp"

namespace undershelf {

namespace {

/// What a row says, held against what a shelf can say.
class RowCheck {
  public:
    RowCheck(const std::string& path, const Rows& row) : path_(path), row_(row) {}

    template <class Enum>
    Enum word(int column, Enum last, const char* what) const {
        const auto value = row_.number(column);
        if (value < 0 || value > static_cast<std::int64_t>(last)) bad(what, std::to_string(value));
        return static_cast<Enum>(value);
    }
    std::uint64_t size(int column, const char* what) const {
        const auto value = row_.number(column);
        if (value < 0) bad(what, std::to_string(value));
        return static_cast<std::uint64_t>(value);
    }
    double share(int column, const char* what) const {
        const auto value = row_.real(column);
        if (!(value >= 0 && value <= 1)) bad(what, std::to_string(value));
        return value;
    }
    std::int64_t ticks(int column) const {
        // From about 12,600 BC to AD 16,500: a date with its zone stays a number.
        constexpr std::int64_t most = 1ll << 62;
        const auto value = row_.number(column);
        if (value > most || value < -most) bad("date", std::to_string(value));
        return value;
    }

  private:
    [[noreturn]] void bad(const char* what, const std::string& value) const {
        damaged_shelf(path_, fmt::format("entry {} has the {} {}", row_.number(0), what, value));
    }
    const std::string& path_;
    const Rows& row_;
};

}  // namespace

std::string entry_columns(SQLite::Database& db, With with) {
    std::string out =
        "e.id, e.volume, e.folder, e.origin, e.name, e.stream, e.name_certainty, e.is_dir, e.system, "
        "e.binned, e.first_path, e.kind, e.ext, e.size, e.grade, e.chance, e.share_left, e.layout, "
        "e.created, e.modified, e.accessed, e.deleted, e.zones, e.attributes, f.path, ";
    const bool named = db.execAndGet("SELECT EXISTS(SELECT 1 FROM named_marks)").getInt() != 0;
    out += named ? "coalesce(m.entry, (SELECT n.entry FROM named_marks n WHERE n.entry = e.id LIMIT 1))"
                 : "m.entry";
    out +=
        ", e.dates, e.format, e.checked, e.complete, e.holds_to, e.proven_to, e.revision, e.helper, "
        "e.earlier_names, e.link, e.rated";
    if (with == With::all)
        out +=
            ", e.pixels, e.seconds, e.pages, e.title, e.camera, "
            "(SELECT group_concat(n.name, char(10)) FROM named_marks n WHERE n.entry = e.id), "
            "EXISTS (SELECT 1 FROM exported x WHERE x.entry = e.id AND x.revision = coalesce(e.revision, 0))";
    return out;
}

void read_line(const Rows& row, const std::string& path, ShelfEntry& e) {
    const RowCheck check(path, row);
    e.id = row.number(0);
    row.text(1, e.name);
    row.text(2, e.stream);
    row.text(3, e.first_path);
    e.size = check.size(4, "size");
    e.rating = {check.share(6, "chance"), 0, check.word(5, Grade::verified, "grade")};
    e.origin = check.word(7, Origin::unnamed, "origin");
    e.rated = check.word(8, Rated::not_copied, "state of its rating");
    if (e.rated != Rated::yes) e.rating = {};
    e.link.reset();
    if (!row.null(9)) row.text(9, e.link.emplace());
}

namespace {

void read_few(const RowCheck& check, const Rows& row, ShelfEntry& e) {
    e.details = {};
    row.text(37, e.details.pixels);
    if (!row.null(38)) e.details.seconds = row.real(38);
    if (!row.null(39)) e.details.pages = static_cast<std::uint32_t>(check.size(39, "number of pages"));
    row.text(40, e.title);
    row.text(41, e.details.camera);
    e.exported = row.number(43) != 0;
    e.marks.clear();
    if (row.null(42)) return;
    std::string names;
    row.text(42, names);
    for (std::size_t at = 0; at <= names.size();) {
        const auto end = std::min(names.find('\n', at), names.size());
        e.marks.push_back(names.substr(at, end - at));
        at = end + 1;
    }
}

}  // namespace

void read_entry(const Rows& row, const std::string& path, ShelfEntry& e, With with) {
    const RowCheck check(path, row);
    e.id = row.number(0);
    e.volume = row.null(1) ? std::nullopt : std::optional(static_cast<int>(row.number(1)));
    e.folder = row.number(2);
    e.origin = check.word(3, Origin::unnamed, "origin");
    row.text(4, e.name);
    row.text(5, e.stream);
    e.name_certainty = check.word(6, NameCertainty::made_up, "name certainty");
    e.is_dir = row.number(7);
    e.system = row.number(8);
    e.binned = row.number(9);
    row.text(10, e.first_path);
    e.kind = check.word(11, Kind::link, "kind");
    row.text(12, e.ext);
    e.size = check.size(13, "size");
    e.rating = {check.share(15, "chance"), check.share(16, "share left"),
                check.word(14, Grade::verified, "grade")};
    e.rated = check.word(36, Rated::not_copied, "state of its rating");
    if (e.rated != Rated::yes) e.rating = {0, e.rating.left, Grade::none};
    e.layout = check.word(17, Layout::known, "layout");
    const auto zones = row.number(22);
    const auto time = [&](int column, int index) -> MaybeTime {
        if (row.null(column)) return std::nullopt;
        return Timestamp{check.ticks(column), unpack_zone(zones, index)};
    };
    e.created = time(18, 0);
    e.modified = time(19, 1);
    e.accessed = time(20, 2);
    e.deleted = time(21, 3);
    e.attributes = static_cast<std::uint32_t>(row.number(23));
    row.text(24, e.folder_path);
    e.marked = !row.null(25);
    if (with == With::all) read_few(check, row, e);
    e.dates = check.word(26, Dates::inside, "kind of dates");
    row.text(27, e.format);
    e.checked = row.null(28) ? std::nullopt
                             : std::optional(static_cast<int>(check.word(28, Strength::strong, "strength")));
    e.complete = row.null(29) ? std::nullopt : std::optional(row.number(29) != 0);
    e.holds_to = row.null(30) ? std::nullopt : std::optional(check.size(30, "checked end"));
    e.proven_to = check.size(31, "proven end");
    e.revision = static_cast<int>(std::min<std::uint64_t>(check.size(32, "revision"), highest_revision));
    e.helper = row.number(33);
    e.link.reset();
    if (!row.null(35)) row.text(35, e.link.emplace());
    e.earlier_names.clear();
    if (row.null(34)) return;
    std::string packed;
    row.text(34, packed);
    e.earlier_names = unpack_earlier_names(packed);
    // Folders move as well: it may be what an entry is called now.
    std::erase_if(e.earlier_names, [now = e.path()](const std::string& name) { return name == now; });
}

}  // namespace undershelf
