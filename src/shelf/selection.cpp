#include "shelf/selection.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <map>
#include <set>
#include <span>

#include "base/error.hpp"
#include "base/text.hpp"
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

class ClauseBuilder {
  public:
    void add(const std::string& condition) { out_.text += (out_.text.empty() ? "" : " AND ") + condition; }
    void value(SqlValue v) { out_.values.push_back(std::move(v)); }

    /// `column IN (1, 2, ...)` over the numbers of `items`, the values of an option.
    template <class Items>
    void one_of(const std::string& column, const Items& items, const char* option) {
        if (items.empty()) return;
        check_count(items.size(), option);
        std::string numbers;
        for (const auto& item : items)
            numbers += (numbers.empty() ? "" : ",") + std::to_string(static_cast<std::int64_t>(item));
        add(fmt::format("{} IN ({})", column, numbers));
    }

    template <class Value>
    void between(const std::string& column, const std::optional<Between<Value>>& range) {
        if (!range) return;
        if (range->from) add_limit(column, ">=", static_cast<std::int64_t>(*range->from));
        if (range->to) add_limit(column, "<=", static_cast<std::int64_t>(*range->to));
    }

    /// Any of several conditions of one form, each with one value, which the form asks for `times` times.
    void any(const std::string& form, const std::vector<std::string>& values, const char* option,
             int times = 1) {
        if (values.empty()) return;
        check_count(values.size(), option);
        for (const auto& v : values) {
            for (int i = 0; i < times; ++i) value(v);
        }
        add(any_of(std::vector<std::string>(values.size(), form)));
    }

    SqlClause take() { return std::move(out_); }

  private:
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

void add_names(ClauseBuilder& out, const Selection& s) {
    std::vector<std::string> on_name, on_path;
    for (const auto& name : s.names) {
        auto pattern = s.match_case ? composed(name) : folded(name);
        (pattern.find('/') == std::string::npos ? on_name : on_path).push_back(std::move(pattern));
    }
    // Both lists are alternatives to one another, so they make one condition.
    const auto form = [fold = s.match_case ? 0 : 1](const char* function, const char* now) {
        return fmt::format("{}({}, {}, e.name_certainty, e.first_path, e.earlier_names, ?)", function, fold,
                           now);
    };
    const auto name_form = form("name_fits", "e.name");
    const auto path_form = form("path_fits", "ltrim(f.path || '/' || e.name, '/')");
    std::vector<std::string> conditions(on_name.size(), name_form);
    conditions.resize(on_name.size() + on_path.size(), path_form);
    check_count(conditions.size(), "name");
    for (auto& pattern : on_name) out.value(std::move(pattern));
    for (auto& pattern : on_path) out.value(pattern.front() == '/' ? pattern.substr(1) : std::move(pattern));
    if (!conditions.empty()) out.add(any_of(conditions));
}

void add_grades(ClauseBuilder& out, const Selection& s) {
    if (s.grades.empty()) return;
    std::set<std::string> conditions;
    for (const auto& g : s.grades)
        conditions.insert(fmt::format("(e.rated = 1 AND e.grade {} {})", g.or_better ? ">=" : "=",
                                      static_cast<int>(g.grade)));
    out.add(any_of(std::vector<std::string>(conditions.begin(), conditions.end())));
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
    return where_clause(without_helpers).text.empty();
}

SqlClause where_clause(const Selection& s) {
    ClauseBuilder out;
    out.one_of("e.id", s.ids, "id");
    std::vector<std::string> under;
    for (const auto& path : s.under) {
        auto trimmed = trimmed_path(s.match_case ? composed(path) : folded(path));
        if (!trimmed.empty()) under.push_back(std::move(trimmed));
    }
    if (under.size() == s.under.size()) {
        const std::string fold = s.match_case ? "path" : "fold(path)";
        out.any(fmt::format("(e.folder IN (SELECT id FROM folders WHERE path_within({}, ?)) OR "
                            "was_within({}, e.first_path, e.earlier_names, ?))",
                            fold, s.match_case ? 0 : 1),
                under, "under", 2);
    }
    add_names(out, s);
    std::vector<std::string> exts;
    for (auto ext : s.exts) {
        if (!ext.empty() && ext.front() == '.') ext.erase(0, 1);
        exts.push_back(folded(ext));
    }
    out.any("e.ext = ?", exts, "ext");
    if (!exts.empty()) out.add("e.is_dir = 0");
    out.one_of("e.kind", s.kinds, "kind");
    if (!s.kinds.empty()) out.add("e.is_dir = 0");
    out.any("e.format = ?", s.contents, "content");
    out.one_of("coalesce(e.checked, 0)", s.checked, "checked");
    if (!s.checked.empty()) out.add("e.is_dir = 0");
    out.one_of("e.origin", s.origins, "origin");
    add_grades(out, s);
    out.one_of("e.volume", s.volumes, "volume");
    out.between("e.size", s.size);
    out.between("e.modified", s.modified);
    out.between("e.created", s.created);
    out.between("e.deleted", s.deleted);
    if (s.no_helpers && s.ids.empty() && !s.marked) out.add("e.helper = 0");
    if (s.folders_only) out.add("e.is_dir = 1");
    if (s.lost) out.add(worded("(e.origin <> #live OR e.binned = 1)"));
    if (s.no_live) out.add(worded("e.origin <> #live"));
    if (s.hide_copies) {
        out.add(
            "e.id NOT IN (SELECT entry FROM same_content WHERE live = 0 AND content IN "
            "(SELECT content FROM same_content WHERE live = 1))");
    }
    if (s.same_as) {
        for (int i = 0; i < 2; ++i) out.value(*s.same_as);
        out.add(
            "(e.id = ? OR e.id IN (SELECT entry FROM same_content WHERE content = (SELECT content FROM "
            "same_content WHERE entry = ?)))");
    }
    if (s.unrated) out.add("e.rated <> 1");
    if (s.rated_only && s.ids.empty()) out.add("e.rated = 1");
    if (s.broken) out.add("e.complete = 0");
    if (s.unread) out.add("e.id IN (SELECT entry FROM contents WHERE touches_unreadable(pieces))");
    if (s.marked) out.add("e.id IN (SELECT entry FROM marks)");
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
            throw Error(Trouble::usage,
                        fmt::format("Entries cannot be sorted by `{}`; the columns to sort by are {}.",
                                    key.column, fmt::join(sort_columns(), ", ")));
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
