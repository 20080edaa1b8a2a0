#include "shelf/sql_functions.hpp"

#include <sqlite3.h>

#include "base/text.hpp"
#include "shelf/packing.hpp"
#include "volume/model.hpp"

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
/// Does a name or path fit a pattern? A first letter of the name that is lost may have been any.
bool fits(std::string_view path, std::string_view pattern, int certainty) {
    const bool lost = certainty == static_cast<int>(NameCertainty::first_letter_unknown);
    return matches_glob(path, pattern, lost ? path.rfind('/') + 1 : std::string_view::npos);
}
void fits_function(sqlite3_context* context, int, sqlite3_value** values) {
    sqlite3_result_int(context, fits(text_of(values[0]), text_of(values[1]), sqlite3_value_int(values[2])));
}
void fits_folded_function(sqlite3_context* context, int, sqlite3_value** values) {
    sqlite3_result_int(context,
                       fits(folded(text_of(values[0])), text_of(values[1]), sqlite3_value_int(values[2])));
}
void within_function(sqlite3_context* context, int, sqlite3_value** values) {
    const auto path = text_of(values[0]), folder = text_of(values[1]);
    const bool within =
        path.starts_with(folder) && (path.size() == folder.size() || path[folder.size()] == '/');
    sqlite3_result_int(context, within);
}
void touches_function(sqlite3_context* context, int, sqlite3_value** values) {
    const auto& unreadable = *static_cast<const RangeSet*>(sqlite3_user_data(context));
    const Bytes packed{static_cast<const std::uint8_t*>(sqlite3_value_blob(values[0])),
                       static_cast<std::size_t>(sqlite3_value_bytes(values[0]))};
    bool touches = false;
    for (const auto& p : unpack_pieces(packed)) {
        touches |= p.kind == PieceKind::stored && unreadable.touches(p.source_range());
        for (const auto& r : p.input) touches |= unreadable.touches(r);
    }
    sqlite3_result_int(context, touches);
}

}  // namespace

void add_sql_functions(SQLite::Database& db, RangeSet& unreadable) {
    const auto add = [&](const char* name, int arguments,
                         void (*function)(sqlite3_context*, int, sqlite3_value**)) {
        db.createFunction(name, arguments, true, &unreadable, function);
    };
    add("fold", 1, fold_function);
    add("name_fits", 3, fits_function);
    add("name_fits_folded", 3, fits_folded_function);
    add("path_within", 2, within_function);
    add("touches_unreadable", 1, touches_function);
}

}  // namespace undershelf
