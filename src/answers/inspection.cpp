#include "answers/inspection.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "answers/drive_json.hpp"
#include "answers/volume_json.hpp"
#include "base/amounts.hpp"
#include "base/text.hpp"

namespace undershelf {

namespace {

using Json = nlohmann::ordered_json;

/// Of a badly damaged source nobody reads more than the first few.
constexpr std::size_t most_gaps = 3;

}  // namespace

std::vector<std::string> health(const Inspection& seen) {
    std::vector<std::string> out;
    if (seen.drive) out = in_words(*seen.drive);
    if (seen.not_copied)
        out.push_back(
            fmt::format("{} of the source are not copied into this image yet; what is there is not "
                        "lost.",
                        human_size(*seen.not_copied)));
    std::uint64_t unread = 0;
    std::size_t gaps = 0;
    for (const auto& gap : seen.gaps) {
        if (gap.not_copied) continue;
        unread += gap.range.length;
        if (++gaps <= most_gaps)
            out.push_back(fmt::format("{} bytes at offset {} cannot be read: {}.", grouped(gap.range.length),
                                      grouped(gap.range.offset), gap.why));
    }
    if (gaps > most_gaps)
        out.push_back(
            fmt::format("{} in all cannot be read, in {} places.", human_size(unread), grouped(gaps)));
    if (!seen.unreadable.empty() && seen.gaps.empty()) {
        out.push_back(fmt::format(
            "{} could not be read, first at offset {}; only heads and samples were tried.",
            human_size(seen.unreadable.bytes()), grouped(seen.unreadable.ranges().front().offset)));
    }
    if (seen.map) out.insert(out.end(), seen.map->remarks.begin(), seen.map->remarks.end());
    for (const auto& v : seen.volumes) {
        for (const auto& remark : v.found.remarks)
            out.push_back(fmt::format("Volume {}: {}", v.found.volume.number, remark));
    }
    out.insert(out.end(), seen.remarks.begin(), seen.remarks.end());
    return out;
}

Json inspection_json(const Inspection& seen, const Plan& plan) {
    Json out;
    out["source"] = {{"path", seen.path}, {"size", seen.size}, {"sector_size", seen.sector_size}};
    out["drive"] = seen.drive ? json_of(*seen.drive) : Json(nullptr);
    out["not_copied"] = seen.not_copied.value_or(0);
    out["partition_map"] = nullptr;
    if (seen.map) {
        Json partitions = Json::array();
        for (const auto& p : seen.map->partitions) {
            partitions.push_back({{"number", p.number},
                                  {"offset", p.offset},
                                  {"size", p.size},
                                  {"type", p.type},
                                  {"name", or_null(p.name)},
                                  {"state", p.state}});
        }
        out["partition_map"] = {{"scheme", seen.map->scheme},
                                {"condition", seen.map->condition},
                                {"partitions", partitions},
                                {"remarks", seen.map->remarks}};
    }
    out["volumes"] = Json::array();
    for (const auto& v : seen.volumes) {
        auto j = json_of(v.found.volume);
        j["can_be_scanned"] = v.found.volume.readable;
        j["used"] = v.space ? Json(v.space->used) : Json(nullptr);
        j["free"] = v.space ? Json(v.space->free) : Json(nullptr);
        j["free_zero_share"] = v.zero_share ? Json(*v.zero_share) : Json(nullptr);
        j["remarks"] = v.found.remarks;
        out["volumes"].push_back(std::move(j));
    }
    out["remarks"] = seen.remarks;
    out["unreadable"] = Json::array();
    for (const auto& r : seen.unreadable.ranges()) out["unreadable"].push_back({r.offset, r.length});
    append_plan(out, plan);
    return out;
}

}  // namespace undershelf
