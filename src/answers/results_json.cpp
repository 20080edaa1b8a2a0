#include "answers/results_json.hpp"

#include <nlohmann/json.hpp>

#include "answers/volume_json.hpp"
#include "volume/words.hpp"

namespace undershelf {

namespace {

using Json = nlohmann::ordered_json;

Json amount(const RangeSet& ranges) {
    return {{"ranges", ranges.ranges().size()}, {"bytes", ranges.bytes()}};
}

const char* state_word(bool interrupted) {
    return interrupted ? "interrupted" : "done";
}

}  // namespace

Json scan_json(const ScanOptions& asked, const ScanResult& r, const Plan& plan) {
    Json out{{"source", asked.source_path},
             {"shelf", asked.shelf_path},
             {"reach", std::string(word(asked.reach))},
             {"state", state_word(r.interrupted)},
             {"was_done_before", r.was_complete},
             {"entries", r.entries},
             {"unnamed", r.unnamed}};
    out["volumes"] = Json::array();
    for (const auto& v : r.volumes) out["volumes"].push_back(json_of(v));
    out["unreadable"] = amount(r.unreadable);
    out["not_copied"] = amount(r.not_copied);
    out["broken_structures"] = r.diagnostics;
    append_plan(out, plan);
    return out;
}

Json check_json(const CheckOptions& asked, const CheckResult& r, const Plan& plan) {
    Json out{{"shelf", asked.shelf_path},
             {"state", state_word(r.interrupted)},
             {"checked", checked_files(r)},
             {"bytes", r.bytes},
             {"verified", r.verified},
             {"live_held", r.live_held},
             {"held", r.held},
             {"broken", r.broken},
             {"cut_off", r.cut},
             {"mended", r.mended},
             {"not_checkable", r.unknown},
             {"not_copied", r.waiting},
             {"unfinished", r.unfinished},
             {"checked_before", r.before},
             {"read_when_found", r.unnamed}};
    append_plan(out, plan);
    return out;
}

Json export_json(const Shelf& shelf, const ExportOptions& asked, const ExportResult& r, const Plan& plan) {
    Json out{{"shelf", shelf.path()},
             {"folder", asked.to.front()},
             {"state", state_word(r.interrupted)},
             {"files", r.complete + r.partial},
             {"bytes", r.bytes},
             {"complete", r.complete},
             {"partial", r.partial},
             {"skipped", r.skipped},
             {"failed", r.failed},
             {"not_rated", r.unrated},
             {"before", r.resumed},
             {"gone", r.gone}};
    out["grades"] = Json::object();
    for (const auto& [grade, files] : r.by_grade) out["grades"][grade] = files;
    out["broken"] = r.broken;
    out["already"] = r.already;
    out["no_room"] = r.no_room;
    out["bags"] = Json::array();
    for (const auto& part : r.parts)
        out["bags"].push_back({{"folder", part.folder},
                               {"round", part.added ? Json(part.round) : Json(nullptr)},
                               {"files", part.files},
                               {"bytes", part.bytes},
                               {"not_as_written", part.unfit},
                               {"added_by_others", part.foreign}});
    out["remembered"] = r.not_noted.empty();
    append_plan(out, plan);
    return out;
}

Json verify_json(const std::string& folder, const Verification& r, const Plan& plan) {
    Json out{{"folder", folder},           {"state", state_word(r.interrupted)},
             {"files", r.files},           {"as_written", r.as_written},
             {"bytes", r.bytes},           {"changed", r.changed},
             {"missing", r.missing},       {"added", r.extra},
             {"unreadable", r.unreadable}, {"differences", r.differences},
             {"unfinished", r.unfinished}};
    append_plan(out, plan);
    return out;
}

}  // namespace undershelf
