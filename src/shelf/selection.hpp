#pragma once
// Which entries a command is about, and in which order: options of the command line turned into SQL.

#include <optional>
#include <string>
#include <variant>
#include <vector>

#include "content/format.hpp"
#include "content/kinds.hpp"
#include "volume/model.hpp"

namespace undershelf {

/// Both ends included; either may be open.
template <class Value>
struct Between {
    std::optional<Value> from, to;
};

struct GradeChoice {
    Grade grade = Grade::none;
    bool or_better = false;
};

struct Selection {
    std::vector<std::int64_t> ids;
    std::vector<std::string>
        under;  ///< paths of folders; an entry is selected when it is in one, however deep
    std::vector<std::string> names;  ///< shell patterns on the name; with a '/' in it, on the path
    std::vector<std::string> exts;
    std::vector<Kind> kinds;
    std::vector<Origin> origins;
    std::vector<GradeChoice> grades;
    std::vector<int> volumes;
    std::optional<Between<std::uint64_t>> size;     ///< bytes
    std::optional<Between<std::int64_t>> modified;  ///< ticks
    std::optional<Between<std::int64_t>> created;
    std::optional<Between<std::int64_t>> deleted;
    bool lost = false;  ///< deleted, former, unnamed, and live ones in a bin
    bool no_live = false;
    std::vector<std::string> contents;  ///< words of what contents show: jpeg, docx
    std::vector<Strength> checked;      ///< how strongly they could be checked; none: not at all
    bool marked = false;
    bool unrated = false;                 ///< files that have no rating yet
    bool rated_only = false;              ///< leave out those, but for what was chosen one by one
    bool broken = false;                  ///< files that a check found not to hold to their end
    bool unread = false;                  ///< files with bytes that could not be read, or are not copied yet
    bool hide_copies = false;             ///< leave out what a live file already holds, byte for byte
    std::optional<std::int64_t> same_as;  ///< this entry and all with the same content
    bool no_helpers =
        false;  ///< leave out what only serves a bin or a viewer, but for what was chosen one by one
    bool folders_only = false;
    bool match_case = false;

    /// Does it name nothing by which it selects? Helpers are no matter of that.
    bool selects_all() const;
};

/// What is checked where nobody selects.
inline Selection all_lost() {
    Selection out;
    out.lost = true;
    return out;
}

struct SortKey {
    std::string column;  ///< a word of sort_columns()
    bool descending = false;
};

/// The words `--sort` knows.
const std::vector<std::string>& sort_columns();

using SqlValue = std::variant<std::int64_t, std::string>;
struct SqlClause {
    std::string text;  ///< a condition on `entries e` joined with `folders f`; empty for none
    std::vector<SqlValue> values;
};

SqlClause where_clause(const Selection& selection);
/// ` ORDER BY ...`; by id without keys. Throws Error(usage) for a column it does not know.
std::string order_clause(const std::vector<SortKey>& keys);

}  // namespace undershelf
