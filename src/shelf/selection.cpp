#include "shelf/selection.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <map>
#include <set>
#include <span>

#include "base/error.hpp"
#include "base/nearest.hpp"
#include "base/text.hpp"
#include "shelf/name_word.hpp"
#include "shelf/sql_functions.hpp"
#include "shelf/sql_words.hpp"

namespace undershelf {

namespace {

/// More values than anybody types; a program that has more asks several times.
constexpr std::size_t most_values = 10'000;

void check_count(std::size_t values, const char* option) {
    if (values > most_values)
        throw Error(Trouble::usage, fmt::format("--{} has {} values; it takes {} at most. Ask several times.",
                                                option, values, most_values));
}

/// `a OR b OR ...` in a balanced form: SQLite bounds how deep an expression is nested, not how long it is.
std::string any_of(std::span<const std::string> conditions) {
    if (conditions.size() == 1) return conditions.front();
    const auto half = conditions.size() / 2;
    return "(" + any_of(conditions.first(half)) + " OR " + any_of(conditions.subspan(half)) + ")";
}

/// Ranges up to here are spelled out, so that the rows are looked up by their numbers.
constexpr std::size_t most_spelled_out = 2000;

class ClauseBuilder {
  public:
    void add(const std::string& condition) { out_.text += (out_.text.empty() ? "" : " AND ") + condition; }
    void value(SqlValue v) { out_.values.push_back(std::move(v)); }

    /// `column IN (1, 2, ...)` over the numbers of `items`, the values of an option.
    template <class Items>
    void one_of(const std::string& column, const Items& items, const char* option, bool files_only = false) {
        if (items.empty()) return;
        check_count(items.size(), option);
        add(fmt::format("{} IN ({})", column, numbers_of(items)));
        if (files_only) add("e.is_dir = 0");
    }
    /// The same for what is not wanted, of files alone.
    template <class Items>
    void none_of(const std::string& column, const Items& items, const char* option) {
        if (items.empty()) return;
        check_count(items.size(), option);
        add(fmt::format("(e.is_dir = 1 OR {} NOT IN ({}))", column, numbers_of(items)));
    }

    template <class Value>
    void between(const std::string& column, const std::optional<Between<Value>>& range) {
        if (!range) return;
        if (range->absent) add(column + " IS NULL");
        if (range->from) add_limit(column, ">=", static_cast<std::int64_t>(*range->from));
        if (range->to) add_limit(column, "<=", static_cast<std::int64_t>(*range->to));
    }

    /// Any of several conditions of one form, each with one value, which the form asks for `times` times.
    void any(const std::string& form, const std::vector<std::string>& values, const char* option,
             int times = 1, bool wanted = true) {
        if (values.empty()) return;
        check_count(values.size(), option);
        for (const auto& v : values) {
            for (int i = 0; i < times; ++i) value(v);
        }
        const auto one = any_of(std::vector<std::string>(values.size(), form));
        add(wanted ? one : "NOT " + parenthesised(one));
    }

    /// Is `column` in a set?
    std::string in_set(const std::string& column, const IdSet& ids) {
        if (ids.ranges().size() > most_spelled_out) {
            value(SqlPointer{std::make_shared<const IdSet>(ids), set_type});
            return fmt::format("in_set({}, ?)", column);
        }
        std::vector<std::string> conditions;
        std::string single;
        for (const auto& r : ids.ranges()) {
            if (r.length == 1)
                single += (single.empty() ? "" : ",") + std::to_string(r.offset);
            else
                conditions.push_back(fmt::format("{} BETWEEN {} AND {}", column, r.offset, r.end() - 1));
        }
        if (!single.empty()) conditions.push_back(fmt::format("{} IN ({})", column, single));
        return parenthesised(any_of(conditions));
    }

    SqlClause take() { return std::move(out_); }

  private:
    template <class Items>
    static std::string numbers_of(const Items& items) {
        std::string out;
        for (const auto& item : items)
            out += (out.empty() ? "" : ",") + std::to_string(static_cast<std::int64_t>(item));
        return out;
    }
    static std::string parenthesised(const std::string& condition) {
        return condition.starts_with("(") ? condition : "(" + condition + ")";
    }
    void add_limit(const std::string& column, const char* relation, std::int64_t limit) {
        value(limit);
        add(fmt::format("{} {} ?", column, relation));
    }
    SqlClause out_;
};

std::string trimmed_path(std::string path) {
    while (!path.empty() && path.back() == '/') path.pop_back();
    while (!path.empty() && path.front() == '/') path.erase(0, 1);
    return path;
}

/// As names and paths are compared.
std::string as_compared(const Selection& s, std::string_view text) {
    return s.match_case ? composed(text) : folded(text);
}

void add_names(ClauseBuilder& out, const Selection& s, const std::vector<std::string>& words,
               const char* option, bool wanted) {
    if (words.empty()) return;
    check_count(words.size(), option);
    // All are alternatives to one another, so they make one condition.
    std::vector<std::string> conditions;
    for (const auto& word : words) {
        auto test = name_word(as_compared(s, word));
        conditions.push_back(
            fmt::format("name_fits({}, {}, {}, {}, e.name_certainty, e.first_path, e.earlier_names, ?)",
                        s.match_case ? 0 : 1, static_cast<int>(test.how), test.on_path ? 1 : 0,
                        test.on_path ? "ltrim(f.path || '/' || e.name, '/')" : "e.name"));
        out.value(std::move(test.text));
    }
    const auto one = any_of(conditions);
    out.add(wanted ? one : conditions.size() > 1 ? "NOT " + one : "NOT (" + one + ")");
}

/// In a folder of one of these paths, however deep, now or before.
void add_under(ClauseBuilder& out, const Selection& s, const std::vector<std::string>& paths,
               const char* option, bool wanted) {
    std::vector<std::string> under;
    for (const auto& path : paths) {
        auto trimmed = trimmed_path(as_compared(s, path));
        if (!trimmed.empty()) under.push_back(std::move(trimmed));
    }
    if (under.size() < paths.size()) {  // the root is among them, and all is under it
        if (!wanted) out.add("0");
        return;
    }
    out.any(fmt::format("(e.folder IN (SELECT id FROM folders WHERE path_within({}, ?)) OR "
                        "was_within({}, e.first_path, e.earlier_names, ?))",
                        s.match_case ? "path" : "fold(path)", s.match_case ? 0 : 1),
            under, option, 2, wanted);
}

/// Shown in a folder of one of these paths itself.
void add_in(ClauseBuilder& out, const Selection& s) {
    std::vector<std::string> paths;
    for (const auto& path : s.in) paths.push_back(trimmed_path(as_compared(s, path)));
    const auto* fold = s.match_case ? "" : "fold";
    out.any(
        fmt::format("(e.first_path IS NULL AND e.folder IN (SELECT id FROM folders WHERE {0}(path) = ?) OR "
                    "e.first_path IS NOT NULL AND {0}(shown_folder(e.first_path, '')) = ?)",
                    fold),
        paths, "in", 2);
}

std::vector<std::string> plain_exts(const std::vector<std::string>& exts) {
    std::vector<std::string> out;
    for (auto ext : exts) {
        if (!ext.empty() && ext.front() == '.') ext.erase(0, 1);
        out.push_back(folded(ext));
    }
    return out;
}

void add_exts(ClauseBuilder& out, const Selection& s) {
    out.any("e.ext = ?", plain_exts(s.exts), "ext");
    if (!s.exts.empty()) out.add("e.is_dir = 0");
    out.any("(e.is_dir = 0 AND e.ext = ?)", plain_exts(s.not_exts), "not-ext", 1, false);
}

void add_contents(ClauseBuilder& out, const Selection& s) {
    if (s.contents.empty()) return;
    auto formats = s.contents;
    const bool none = std::erase(formats, "none") > 0;
    check_count(formats.size(), "content");
    std::vector<std::string> conditions(formats.size(), "e.format = ?");
    for (auto& format : formats) out.value(std::move(format));
    if (none) conditions.emplace_back("e.format IS NULL");
    out.add(any_of(conditions));
    out.add("e.is_dir = 0");
}

void add_grades(ClauseBuilder& out, const Selection& s) {
    if (s.grades.empty()) return;
    std::set<std::string> conditions;
    for (const auto& g : s.grades)
        conditions.insert(fmt::format("(e.rated = 1 AND e.grade {} {})", g.or_better ? ">=" : "=",
                                      static_cast<int>(g.grade)));
    out.add(any_of(std::vector<std::string>(conditions.begin(), conditions.end())));
}

void add_marks(ClauseBuilder& out, const Selection& s) {
    if (!s.marks.empty())
        out.any("e.id IN (SELECT entry FROM named_marks WHERE name = ?)", s.marks, "marked");
    else if (s.marked)
        out.add("e.id IN (SELECT entry FROM marks UNION ALL SELECT entry FROM named_marks)");
}

void add_exported(ClauseBuilder& out, const Selection& s) {
    if (!s.exported) return;
    out.add("e.is_dir = 0");
    out.add(
        fmt::format("{} EXISTS (SELECT 1 FROM exported x WHERE x.entry = e.id AND x.revision = "
                    "coalesce(e.revision, 0))",
                    *s.exported ? "" : "NOT"));
}

/// Of lost files with one content the best is kept, where no live one has it.
constexpr const char* copies =
    "SELECT entry FROM (SELECT s.entry, s.live, row_number() OVER (PARTITION BY s.content ORDER BY s.live "
    "DESC, "
    "c.grade * (c.rated = 1) DESC, c.chance * (c.rated = 1) DESC, c.name_certainty, c.id) AS place FROM "
    "same_content s JOIN entries c ON c.id = s.entry) WHERE live = 0 AND place > 1";

/// What was chosen one by one comes although it would be left out otherwise.
void leave_out(ClauseBuilder& out, const Selection& s, const std::string& condition) {
    out.add(s.ids.empty() ? condition : fmt::format("({} OR {})", condition, out.in_set("e.id", s.ids)));
}

const std::map<std::string, std::string>& sort_expressions() {
    static const std::map<std::string, std::string> out{{"id", "e.id"},
                                                        {"volume", "e.volume"},
                                                        {"origin", "e.origin"},
                                                        {"name", "fold(shown_name(e.first_path, e.name))"},
                                                        {"path",
                                                         "fold(shown_folder(e.first_path, f.path)), "
                                                         "fold(shown_name(e.first_path, e.name))"},
                                                        {"kind", "e.kind"},
                                                        {"ext", "e.ext"},
                                                        {"size", "e.size"},
                                                        {"grade", "e.grade * (e.rated = 1)"},
                                                        {"chance", "e.chance * (e.rated = 1)"},
                                                        {"left", "e.share_left"},
                                                        {"format", "e.format"},
                                                        {"holds_to", "e.holds_to"},
                                                        {"created", "e.created"},
                                                        {"modified", "e.modified"},
                                                        {"accessed", "e.accessed"},
                                                        {"deleted", "e.deleted"}};
    return out;
}

}  // namespace

bool Selection::selects_all() const {
    auto without_helpers = *this;
    without_helpers.no_helpers = false;
    if (needs_a_look()) return false;
    return where_clause(without_helpers).text.empty();
}

SqlClause where_clause(const Selection& s, const Beyond& beyond) {
    ClauseBuilder out;
    // What was looked for with all conditions, and what belongs to it, which fulfils none.
    if (s.among && s.with_pairs) {
        out.add(s.among->empty() ? "0" : out.in_set("e.id", *s.among));
        return out.take();
    }
    if (!s.ids.empty()) {
        auto condition = out.in_set("e.id", s.ids);
        if (!beyond.folders.empty()) condition += " OR " + out.in_set("e.folder", beyond.folders);
        if (!beyond.entries.empty()) condition += " OR " + out.in_set("e.id", beyond.entries);
        out.add("(" + condition + ")");
    }
    if (s.among) out.add(s.among->empty() ? "0" : out.in_set("e.id", *s.among));
    add_under(out, s, s.under, "under", true);
    add_under(out, s, s.not_under, "not-under", false);
    add_in(out, s);
    add_names(out, s, s.names, "name", true);
    add_names(out, s, s.not_names, "not-name", false);
    add_exts(out, s);
    out.one_of("e.kind", s.kinds, "kind", true);
    out.none_of("e.kind", s.not_kinds, "not-kind");
    add_contents(out, s);
    out.one_of("coalesce(e.checked, 0)", s.checked, "checked", true);
    out.one_of("e.origin", s.origins, "origin");
    add_grades(out, s);
    out.one_of("coalesce(e.volume, 0)", s.volumes, "volume");
    out.between("e.size", s.size);
    out.between("e.modified", s.modified);
    out.between("e.created", s.created);
    out.between("e.accessed", s.accessed);
    out.between("e.deleted", s.deleted);
    if (s.no_helpers && !s.marked) leave_out(out, s, "e.helper = 0");
    if (s.folders_only) out.add("e.is_dir = 1");
    if (s.lost) out.add(worded("(e.origin <> #live OR e.binned = 1)"));
    if (s.no_live) out.add(worded("e.origin <> #live"));
    if (s.hidden)
        out.add(fmt::format("(e.attributes & {} <> 0 OR shown_name(e.first_path, e.name) LIKE '.%')",
                            attribute::hidden));
    if (s.hide_copies) out.add(fmt::format("e.id NOT IN ({})", copies));
    if (s.same_as) {
        for (int i = 0; i < 2; ++i) out.value(*s.same_as);
        out.add(
            "(e.id = ? OR e.id IN (SELECT entry FROM same_content WHERE content = (SELECT content FROM "
            "same_content WHERE entry = ?)))");
    }
    add_exported(out, s);
    if (s.unrated) out.add("e.rated <> 1");
    if (s.rated_only) leave_out(out, s, "e.rated = 1");
    if (s.no_gone)
        leave_out(
            out, s,
            fmt::format("(e.is_dir = 1 OR e.rated <> 1 OR e.grade <> {})", static_cast<int>(Grade::gone)));
    if (s.broken) out.add("e.complete = 0");
    if (s.mended) out.add("was_mended(e.evidence)");
    if (s.unread) out.add("e.id IN (SELECT entry FROM contents WHERE touches_unreadable(pieces))");
    add_marks(out, s);
    return out.take();
}

const std::vector<std::string>& sort_columns() {
    static const auto names = [] {
        std::vector<std::string> out;
        for (const auto& [name, expression] : sort_expressions()) out.push_back(name);
        return out;
    }();
    return names;
}

std::string order_clause(const std::vector<SortKey>& keys) {
    if (keys.empty()) return " ORDER BY e.id";
    std::string out = " ORDER BY ";
    std::set<std::string> sorted_by;
    for (const auto& key : keys) {
        const auto it = sort_expressions().find(key.column);
        if (it == sort_expressions().end()) {
            throw Error(
                Trouble::usage,
                fmt::format("Entries cannot be sorted by `{}`.{} The columns to sort by are {}.", key.column,
                            did_you_mean(key.column, sort_columns()), fmt::join(sort_columns(), ", ")));
        }
        // Sorting by a column once more changes nothing.
        if (!sorted_by.insert(key.column).second) continue;
        auto expression = it->second;
        if (key.descending) {
            for (auto at = expression.find("), "); at != std::string::npos;
                 at = expression.find("), ", at + 8))
                expression.replace(at, 3, ") DESC, ");
            expression += " DESC";
        }
        out += expression + ", ";
    }
    return out + "e.id";
}

}  // namespace undershelf
