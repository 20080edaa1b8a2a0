#include "answers/summary_json.hpp"

#include <algorithm>
#include <array>
#include <nlohmann/json.hpp>

#include "answers/counts.hpp"
#include "answers/planner.hpp"
#include "answers/volume_json.hpp"
#include "base/json_text.hpp"
#include "content/kinds.hpp"
#include "volume/words.hpp"

namespace undershelf {

namespace {

using Json = nlohmann::ordered_json;

Json grades_json(const std::array<std::uint64_t, 6>& by_grade) {
    Json out = Json::object();
    for (const auto g : shown_grades) out[std::string(word(g))] = by_grade[static_cast<std::size_t>(g)];
    return out;
}

void add_counts(Json& out, const Counts& c) {
    out["files"] = c.files;
    out["folders"] = c.folders;
    out["bytes"] = c.bytes;
    out["grades"] = grades_json(c.by_grade);
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

/// What a command has done, in words of its options.
Json command_json(const char* name, const CommandRecord& command, const std::string& started,
                  const std::string& ended, const std::string& state) {
    std::vector<std::string> typed;
    for (const auto& word : json_in(command.arguments)) {
        if (word.is_string()) typed.push_back(word.get<std::string>());
    }
    Json out{
        {"command", typed.empty() ? std::string(name) : typed.front()},
        {"version", or_null(command.version)},
        {"options", typed.empty() ? std::vector<std::string>() : std::vector(typed.begin() + 1, typed.end())},
        {"started", started},
        {"ended", or_null(ended)},
        {"state", state}};
    out["exit"] = command.exit ? Json(*command.exit) : Json(nullptr);
    return out;
}

/// Every command that wrote to the shelf, in the order in which they were begun.
Json commands_json(const Shelf& shelf) {
    std::vector<Json> all;
    for (const auto& s : shelf.scans()) {
        all.push_back(command_json("scan", s.command, s.started, s.ended, s.state));
        all.back()["reach"] = s.reach;
    }
    for (const auto& job : shelf.jobs()) {
        all.push_back(command_json(word(job.work), job.command, job.started, job.ended, job.state));
        all.back()["selection"] = ordered_json_in(job.selection);
        if (!job.folder.empty()) all.back()["folder"] = job.folder;
    }
    std::stable_sort(all.begin(), all.end(), [](const Json& a, const Json& b) {
        return a["started"].get_ref<const std::string&>() < b["started"].get_ref<const std::string&>();
    });
    return all;
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
    out["exported_lost"] = grades_json(facts.exported_lost);
    std::array<std::uint64_t, 6> left{};
    for (const auto g : shown_grades) left[static_cast<std::size_t>(g)] = facts.left_of(g);
    out["left_to_export"] = grades_json(left);
    out["commands"] = commands_json(shelf);
    out["contents_not_looked_for"] = facts.not_looked_for;
    out["broken_structures"] = shelf.diagnostics();
    append_plan(out, plan(facts));
    return out;
}

}  // namespace undershelf
