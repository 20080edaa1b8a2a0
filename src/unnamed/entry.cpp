#include "unnamed/entry.hpp"

#include <fmt/format.h>

#include "content/formats.hpp"

namespace undershelf {

namespace {

/// A title may be anything; in a name there are no separators, and it does not begin with a dot.
std::string as_name(std::string_view title) {
    std::string out;
    for (const char c : title) out += c == '/' || c == '\\' || c == ':' ? '-' : c;
    while (!out.empty() && (out.front() == '.' || out.front() == ' ')) out.erase(0, 1);
    while (!out.empty() && (out.back() == '.' || out.back() == ' ')) out.pop_back();
    return out;
}

std::string name_of(const Measured& found, const Format& format, std::uint64_t source_size) {
    auto name = as_name(found.inside.title);
    if (name.empty()) {
        const auto digits = fmt::format("{}", source_size).size();
        const auto what = format.kind == Kind::other ? std::string_view("file") : word(format.kind);
        name = fmt::format("{}-{:0{}}", what, found.range.offset, digits);
    }
    const std::string ext(found.inside.extension);
    return ext.empty() ? name : name + "." + ext;
}

Evidence why_there(const Measured& found) {
    switch (found.ending) {
        case Ending::structure:
            return {Fact::ends_itself, found.range.offset, 0, {}};
        case Ending::zeros:
            return {Fact::ends_in_zeros, found.range.offset, 0, {}};
        case Ending::cut:
            break;
    }
    return {Fact::cut_off, found.range.offset, 0, found.cut_by};
}

}  // namespace

Entry unnamed_entry(const Measured& found, std::uint64_t source_size) {
    const auto& format = *format_named(found.format);
    Entry e;
    e.key = {found.range.offset, 0};
    e.origin = Origin::unnamed;
    e.name = name_of(found, format, source_size);
    e.name_certainty = NameCertainty::made_up;
    e.size = found.range.length;
    e.layout = Layout::assumed;
    Piece piece;
    piece.known = false;
    piece.length = found.range.length;
    piece.source = found.range.offset;
    e.pieces.push_back(std::move(piece));
    e.claims.push_back(found.range);
    e.evidence.push_back(why_there(found));
    if (found.begins_within) e.evidence.push_back({Fact::begins_within, 0, 0, {}});
    if (found.others_within) e.evidence.push_back({Fact::others_within, 0, 0, {}});
    if (found.check.loose_end) e.evidence.push_back({Fact::loose_end, 0, 0, {}});
    e.evidence.push_back({Fact::stand_in_name, 0, 0, {}});
    const auto& dates = found.inside.dates;
    e.created = dates.created;
    e.modified = dates.modified;
    if (!dates.empty()) e.evidence.push_back({Fact::date_inside, 0, 0, std::string(dates.where)});
    return e;
}

}  // namespace undershelf
