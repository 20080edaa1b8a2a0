#pragma once
// Which entries a command is about, and in which order: options of the command line turned into SQL.

#include <memory>
#include <optional>
#include <string>
#include <variant>
#include <vector>

#include "base/byte_range.hpp"
#include "content/format.hpp"
#include "content/kinds.hpp"
#include "volume/model.hpp"

namespace undershelf {

/// Both ends included; either may be open.
template <class Value>
struct Between {
    std::optional<Value> from, to;
    bool absent = false;  ///< instead: where there is no such value
};

struct GradeChoice {
    Grade grade = Grade::none;
    bool or_better = false;
};

/// Numbers of entries, as ranges of numbers.
using IdSet = RangeSet;
inline void add_id(IdSet& ids, std::int64_t id) {
    ids.add({static_cast<std::uint64_t>(id), 1});
}
inline bool has_id(const IdSet& ids, std::int64_t id) {
    return id >= 0 && ids.contains(static_cast<std::uint64_t>(id));
}

/// SHA-256 sums as a list has them, sorted, each once.
struct KnownSums {
    std::string file;               ///< that they are from
    std::vector<std::string> sums;  ///< 64 lower-case hex digits each
};

/// Numbers as a list has them.
struct ListedIds {
    std::string file;
    std::string shelf;  ///< what it says it was made from; empty where it does not
    IdSet ids;
};

struct Selection {
    IdSet ids;  ///< of entries; that of a folder is for what is in it as well
    std::vector<std::string>
        under;                    ///< paths of folders; an entry is selected when it is in one, however deep
    std::vector<std::string> in;  ///< paths of folders that entries are shown in, and not deeper
    /// A word is in a name; a pattern fits a name, with a '/' in it a path; after a '=' it is the name or
    /// path.
    std::vector<std::string> names;
    std::vector<std::string> exts;  ///< empty or "." for none
    std::vector<Kind> kinds;
    std::vector<std::string> not_under, not_names, not_exts;
    std::vector<Kind> not_kinds;
    std::vector<Origin> origins;
    std::vector<GradeChoice> grades;
    std::vector<int> volumes;                       ///< 0: in none
    std::optional<Between<std::uint64_t>> size;     ///< bytes
    std::optional<Between<std::int64_t>> modified;  ///< ticks
    std::optional<Between<std::int64_t>> created;
    std::optional<Between<std::int64_t>> accessed;
    std::optional<Between<std::int64_t>> deleted;
    bool lost = false;  ///< deleted, former, unnamed, and live ones in a bin
    bool no_live = false;
    bool hidden = false;                ///< by their attribute or flag, or by a leading dot
    std::vector<std::string> contents;  ///< words of what contents show: jpeg, docx; "none" for no format
    std::vector<Strength> checked;      ///< how strongly they could be checked; none: not at all
    bool marked = false;                ///< under any name, or none
    std::vector<std::string> marks;     ///< under one of these names
    std::optional<bool> exported;       ///< files that were exported as they are laid out now, or were not
    bool unrated = false;               ///< files that have no rating yet
    bool rated_only = false;            ///< leave out those, but for what was chosen one by one
    bool no_gone = false;               ///< leave out files that are gone, but for what was chosen one by one
    bool broken = false;                ///< files that a check found not to hold to their end
    bool mended = false;                ///< files that were laid out by their content, or their neighbours'
    bool unread = false;                ///< files with bytes that could not be read, or are not copied yet
    bool hide_copies = false;  ///< leave out what a live file, or a better lost one, holds byte for byte
    std::optional<std::int64_t> same_as;  ///< this entry and all with the same content
    bool no_helpers =
        false;  ///< leave out what only serves a bin or a viewer, but for what was chosen one by one
    bool folders_only = false;
    bool match_case = false;

    std::shared_ptr<const ListedIds> listed;  ///< that `ids` has numbers from
    // What no row of a shelf tells. Somebody looks first, and puts what was found into `among`.
    std::string containing;                             ///< words that are all in a file's text or title
    std::shared_ptr<const KnownSums> known, not_known;  ///< files with one of these sums; with none of them
    bool with_pairs = false;                            ///< also what belongs to one of them by its name
    std::shared_ptr<const IdSet> among;                 ///< only these

    /// Does it name nothing by which it selects? Helpers are no matter of that.
    bool selects_all() const;
    bool needs_a_look() const { return !containing.empty() || known || not_known || with_pairs; }
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

/// What functions of the shelf's own are given to look at.
struct SqlPointer {
    std::shared_ptr<const void> object;
    const char* type = nullptr;  ///< as sqlite3_bind_pointer() has it
};
using SqlValue = std::variant<std::int64_t, std::string, SqlPointer>;
struct SqlClause {
    std::string text;  ///< a condition on `entries e` joined with `folders f`; empty for none
    std::vector<SqlValue> values;
};

/// What a selection stands for beyond what it says.
struct Beyond {
    IdSet folders;  ///< what is directly in these
    IdSet entries;  ///< and these
};

SqlClause where_clause(const Selection& selection, const Beyond& beyond = {});
/// ` ORDER BY ...`; by id without keys. Throws Error(usage) for a column it does not know.
std::string order_clause(const std::vector<SortKey>& keys);

}  // namespace undershelf
