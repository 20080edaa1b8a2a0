#include "answers/summary_json.hpp"

#include <nlohmann/json.hpp>

#include "answers/counts.hpp"
#include "answers/planner.hpp"
#include "answers/volume_json.hpp"
#include "content/kinds.hpp"
#include "volume/words.hpp"

namespace undershelf {

namespace {

using Json = nlohmann::ordered_json;

void add_counts(Json& out, const Counts& c) {
    out["files"] = c.files;
    out["folders"] = c.folders;
    out["bytes"] = c.bytes;
    out["grades"] = Json::object();
    for (const auto g : shown_grades)
        out["grades"][std::string(word(g))] = c.by_grade[static_cast<std::size_t>(g)];
}

template <class NameOf>
Json by_name(const Rows& rows, const NameOf& name_of) {
    Json out = Json::object();
    for (const auto& [key, counts] : rows) {
        auto& row = out[std::string(name_of(key))];
        row = Json::object();
        add_counts(row, counts);
    }
    return out;
}

}  // namespace

Json summary_json(const Shelf& shelf) {
    const auto source = shelf.source();
    const auto by_origin = rows_of(shelf, Shelf::TallyBy::origin);
    auto by_volume = rows_of(shelf, Shelf::TallyBy::volume);
    Json out;
    out["source"] = {{"path", source.path}, {"size", source.size}, {"sector_size", source.sector_size}};
    out["scans"] = Json::array();
    for (const auto& s : shelf.scans())
        out["scans"].push_back(
            {{"reach", s.reach}, {"started", s.started}, {"ended", or_null(s.ended)}, {"state", s.state}});
    out["volumes"] = Json::array();
    for (const auto& v : best_first(shelf.volumes(), by_volume)) {
        auto row = json_of(v);
        add_counts(row, by_volume[v.number]);
        out["volumes"].push_back(std::move(row));
    }
    out["origins"] = by_name(by_origin, [](int origin) { return word(static_cast<Origin>(origin)); });
    out["kinds"] =
        by_name(rows_of(shelf, Shelf::TallyBy::kind), [](int kind) { return word(static_cast<Kind>(kind)); });
    out["helpers"] = shelf.helpers();
    const auto amount = [](const RangeSet& ranges) {
        return Json{{"ranges", ranges.ranges().size()}, {"bytes", ranges.bytes()}};
    };
    out["unreadable"] = amount(shelf.unreadable_for_good());
    out["not_copied"] = amount(shelf.not_copied());
    const auto facts = facts_of(shelf, Asked::summary);
    out["contents_not_looked_for"] = facts.not_looked_for;
    out["broken_structures"] = shelf.diagnostics();
    append_plan(out, plan(facts));
    return out;
}

}  // namespace undershelf
