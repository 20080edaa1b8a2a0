#include "answers/volume_json.hpp"
#include "content/kinds.hpp"
#include "report/calibration.hpp"
#include "report/report.hpp"
#include "volume/words.hpp"

namespace undershelf {

namespace {

using Json = nlohmann::ordered_json;

Json json_of(const Counts& counts) {
    Json out{{"files", counts.files}, {"bytes", counts.bytes}};
    for (const auto grade : shown_grades)
        out["grades"][std::string(word(grade))] = counts.by_grade[static_cast<std::size_t>(grade)];
    return out;
}

Json json_of(const Months& months) {
    Json out = Json::object();
    for (const auto& [month, n] : months)
        out[std::to_string(month / 100) + (month % 100 < 10 ? "-0" : "-") + std::to_string(month % 100)] = n;
    return out;
}

Json json_of(const HandedOver& bag) {
    const auto& v = bag.verification;
    Json out{{"folder", bag.folder},
             {"drive", or_null(bag.drive)},
             {"verified", bag.ends_well()},
             {"finished", !v.unfinished_command}};
    out["rounds"] = Json::array();
    for (const auto& r : bag.rounds)
        out["rounds"].push_back(
            {{"number", r.number}, {"ended", r.ended}, {"files", r.files}, {"bytes", r.bytes}});
    out["complete"] = bag.complete;
    out["partial"] = bag.partial;
    out["left_out"] = bag.left_out;
    out["failed"] = bag.failed;
    out["bytes"] = bag.bytes;
    for (const auto grade : shown_grades)
        out["grades"][std::string(word(grade))] = bag.by_grade[static_cast<std::size_t>(grade)];
    out["why_left_out"] = Json::object();
    for (const auto& [why, n] : bag.why_left_out) out["why_left_out"][why] = n;
    out["manifest_sha256"] = or_null(bag.manifest_sum);
    out["differences"] = v.differences;
    out["unfinished"] = v.unfinished;
    return out;
}

Json ranges_json(const RangeSet& ranges) {
    constexpr std::size_t most = 1000;
    Json out = Json::array();
    for (const auto& r : ranges.ranges()) {
        if (out.size() == most) break;
        out.push_back({r.offset, r.length});
    }
    return out;
}

}  // namespace

Json report_json(const ReportFacts& f) {
    Json out{{"made", f.made},
             {"program", "undershelf " + f.version},
             {"title", or_null(f.title)},
             {"case", or_null(f.case_name)},
             {"by", or_null(f.by)},
             {"shelf", f.shelf},
             {"identity", f.identity}};
    out["happened"] = f.happened;
    out["files"] = f.files;
    out["bytes"] = f.bytes;
    out["kinds"] = Json::object();
    for (const auto& [kind, counts] : f.kinds) out["kinds"][std::string(word(kind))] = json_of(counts);
    out["origins"] = Json::object();
    for (const auto& [origin, counts] : f.origins)
        out["origins"][std::string(word(origin))] = json_of(counts);
    out["folders"] = Json::array();
    for (const auto& g : f.folders) {
        Counts counts;
        counts.files = g.counts.files;
        counts.bytes = g.counts.bytes;
        counts.by_grade = g.counts.by_grade;
        auto row = json_of(counts);
        row["folder"] = g.name;
        out["folders"].push_back(row);
    }
    out["chances"] = Json::array();
    for (std::size_t i = 0; i < f.chances.size(); ++i)
        out["chances"].push_back(
            {{"files", f.chances[i]},
             {"mean", f.chances[i] ? Json(f.chance_sums[i] / static_cast<double>(f.chances[i])) : Json()}});
    out["calibration"] = {{"measured", calibration_version}, {"bins", Json::array()}};
    for (const auto& b : calibration_bins)
        out["calibration"]["bins"].push_back({{"files", b.files}, {"mean", b.mean}, {"exact", b.exact}});
    out["sizes"] = f.sizes;
    out["created"] = json_of(f.created);
    out["changed"] = json_of(f.changed);
    out["deleted"] = json_of(f.deleted);
    out["most_doubtful"] = Json::array();
    for (std::size_t i = 0; i < f.most_doubtful.size(); ++i)
        out["most_doubtful"].push_back({{"id", f.most_doubtful[i].id},
                                        {"path", f.most_doubtful[i].shown_path()},
                                        {"chance", f.most_doubtful[i].rating.chance},
                                        {"why", f.doubts[i]}});
    out["previews"] = Json::array();
    for (const auto& p : f.previews)
        out["previews"].push_back({{"id", p.entry.id}, {"path", p.entry.shown_path()}});
    out["wanted"] = Json();
    if (f.wanted) {
        out["wanted"] = Json::array();
        for (const auto& w : *f.wanted)
            out["wanted"].push_back({{"text", w.text},
                                     {"files", w.files},
                                     {"best", w.files ? Json(std::string(word(w.best))) : Json()},
                                     {"path", or_null(w.path)}});
    }
    out["bags"] = Json::array();
    for (const auto& bag : f.bags) out["bags"].push_back(json_of(bag));
    out["unreadable"] = ranges_json(f.unreadable);
    out["not_copied"] = ranges_json(f.not_copied);
    out["summary"] = f.summary;
    return out;
}

}  // namespace undershelf
