#include "shelf/sql_functions.hpp"

#include <sqlite3.h>

#include <algorithm>

#include "base/slash_path.hpp"
#include "base/text.hpp"
#include "shelf/name_word.hpp"
#include "shelf/packing.hpp"
#include "shelf/selection.hpp"
#include "shelf/tree_rows.hpp"
#include "volume/model.hpp"
#include "volume/pieces.hpp"
#include "volume/relayout.hpp"

namespace undershelf {

namespace {

std::string_view text_of(sqlite3_value* value) {
    const auto* text = reinterpret_cast<const char*>(sqlite3_value_text(value));
    return text ? std::string_view(text, static_cast<std::size_t>(sqlite3_value_bytes(value)))
                : std::string_view{};
}

void fold_function(sqlite3_context* context, int, sqlite3_value** values) {
    const auto out = folded(text_of(values[0]));
    sqlite3_result_text(context, out.data(), static_cast<int>(out.size()), SQLITE_TRANSIENT);
}
/// Calls `look` for each of an entry's other places, in columns `first` (first path) and after it (earlier
/// names), until it says yes.
template <class Look>
bool any_other_place(sqlite3_value** first, bool fold, Look look) {
    const auto as_asked = [&](std::string_view path) { return fold ? folded(path) : std::string(path); };
    if (sqlite3_value_type(first[0]) != SQLITE_NULL && look(as_asked(text_of(first[0])))) return true;
    if (sqlite3_value_type(first[1]) == SQLITE_NULL) return false;
    const auto names = unpack_earlier_names(text_of(first[1]));
    return std::any_of(names.begin(), names.end(),
                       [&](const std::string& path) { return look(as_asked(path)); });
}

/// Does a name or path pass a test, the one of now or one of before? A first letter of the name that is
/// lost may have been any. Values: fold, how, by path, name or path, its certainty, first path, earlier
/// names, what is asked for.
void fits_function(sqlite3_context* context, int, sqlite3_value** values) {
    const bool fold = sqlite3_value_int(values[0]) != 0, by_path = sqlite3_value_int(values[2]) != 0;
    const auto how = static_cast<NameWord::How>(sqlite3_value_int(values[1]));
    const auto now = fold ? folded(text_of(values[3])) : std::string(text_of(values[3]));
    const bool lost = sqlite3_value_int(values[4]) == static_cast<int>(NameCertainty::first_letter_unknown);
    const auto text = text_of(values[7]);
    const auto any_letter = lost ? now.rfind('/') + 1 : std::string::npos;
    const bool fits =
        passes(now, how, text, any_letter) || any_other_place(values + 5, fold, [&](const std::string& path) {
            return passes(by_path ? path : name_in(path), how, text, std::string::npos);
        });
    sqlite3_result_int(context, fits);
}

/// Values: a number, a set.
void in_set_function(sqlite3_context* context, int, sqlite3_value** values) {
    const auto* set = static_cast<const IdSet*>(sqlite3_value_pointer(values[1], set_type));
    sqlite3_result_int(context, set && has_id(*set, sqlite3_value_int64(values[0])));
}

void within_function(sqlite3_context* context, int, sqlite3_value** values) {
    sqlite3_result_int(context, is_within(text_of(values[0]), text_of(values[1])));
}
/// Was an entry in a folder before? Values: fold, first path, earlier names, folder.
void was_within_function(sqlite3_context* context, int, sqlite3_value** values) {
    const auto folder = text_of(values[3]);
    const bool was =
        any_other_place(values + 1, sqlite3_value_int(values[0]) != 0,
                        [&](const std::string& path) { return is_within(folder_in(path), folder); });
    sqlite3_result_int(context, was);
}

/// Values: first path, the folder or name of now.
template <std::string_view (*part)(std::string_view)>
void shown_function(sqlite3_context* context, int, sqlite3_value** values) {
    const bool binned = sqlite3_value_type(values[0]) != SQLITE_NULL;
    const auto out = binned ? part(text_of(values[0])) : text_of(values[1]);
    sqlite3_result_text(context, out.data(), static_cast<int>(out.size()), SQLITE_TRANSIENT);
}

void was_mended_function(sqlite3_context* context, int, sqlite3_value** values) {
    const Bytes packed{static_cast<const std::uint8_t*>(sqlite3_value_blob(values[0])),
                       static_cast<std::size_t>(sqlite3_value_bytes(values[0]))};
    sqlite3_result_int(context, was_mended(unpack_evidence(packed)));
}

void touches_function(sqlite3_context* context, int, sqlite3_value** values) {
    const auto& unreadable = *static_cast<const RangeSet*>(sqlite3_user_data(context));
    const Bytes packed{static_cast<const std::uint8_t*>(sqlite3_value_blob(values[0])),
                       static_cast<std::size_t>(sqlite3_value_bytes(values[0]))};
    sqlite3_result_int(context, touch(unpack_pieces(packed), unreadable));
}

}  // namespace

void add_sql_functions(SQLite::Database& db, RangeSet& unreadable) {
    const auto add = [&](const char* name, int arguments,
                         void (*function)(sqlite3_context*, int, sqlite3_value**)) {
        db.createFunction(name, arguments, true, &unreadable, function);
    };
    add("fold", 1, fold_function);
    add("name_fits", 8, fits_function);
    add("in_set", 2, in_set_function);
    add("path_within", 2, within_function);
    add("was_within", 4, was_within_function);
    add("shown_name", 2, shown_function<name_in>);
    add("shown_folder", 2, shown_function<folder_in>);
    add("touches_unreadable", 1, touches_function);
    add("was_mended", 1, was_mended_function);
    add_tree_function(db);
}

}  // namespace undershelf
