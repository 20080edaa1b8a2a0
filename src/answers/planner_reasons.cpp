// Which passes can bring something, and what speaks for it.

#include <fmt/format.h>

#include <algorithm>

#include "answers/planner.hpp"
#include "answers/planner_parts.hpp"
#include "base/amounts.hpp"
#include "base/text.hpp"

namespace undershelf {

namespace {

/// Nor do two of them make a volume, unless nothing else is there.
constexpr std::uint64_t enough_without_a_volume = 2;
/// Of a source that was looked at in part: so much data among what was looked at may be contents whose starts
/// were not met.
constexpr double worth_a_search = 0.01;

double data_share(const SpaceLook& space) {
    return space.looked ? static_cast<double>(space.data) / static_cast<double>(space.looked) : 0;
}

/// Where the whole space was not looked at, what was not met may be in the rest.
bool may_hold_more(const Facts& f) {
    return f.space && !f.space->all() && data_share(*f.space) >= worth_a_search;
}

bool has_no_volume(const Facts& f) {
    return std::none_of(f.volumes.begin(), f.volumes.end(), [](const auto& v) { return v.readable; });
}

std::string extent_of(const SpaceLook& space) {
    if (space.all()) return fmt::format("all {} of it were looked at", human_size(space.bytes));
    return fmt::format("{} of {} were looked at", human_size(space.looked), human_size(space.bytes));
}

}  // namespace

std::vector<std::string> reasons_for_contents(const Facts& f) {
    std::vector<std::string> out;
    if (f.contents == Facts::Pass::done || !f.space || f.space->data == 0) return out;
    if (f.space->starts == 0 && !may_hold_more(f)) return out;
    for (const auto& s : f.unread_systems) {
        if (!s.is_encrypted())
            out.push_back(fmt::format("the {} volume is not read by this version", s.what));
    }
    if (has_no_volume(f) && out.empty()) out.emplace_back("no volume was found");
    if (f.space->starts)
        out.push_back(fmt::format("{} in space that no entry claims ({})",
                                  counted(f.space->starts, "file seems to begin", "files seem to begin"),
                                  extent_of(*f.space)));
    else
        out.push_back(fmt::format("{:.0f} % of the space that no entry claims hold data ({})",
                                  100 * data_share(*f.space), extent_of(*f.space)));
    if (f.without_contents)
        out.push_back(fmt::format("{} no contents where {} said to be",
                                  counted(f.without_contents, "lost file has", "lost files have"),
                                  f.without_contents == 1 ? "it is" : "they are"));
    return out;
}

std::vector<std::string> reasons_for_sweep(const Facts& f) {
    std::vector<std::string> out;
    if (f.has_swept() || !f.space || f.space->data == 0) return out;
    if (f.space->traces < (has_no_volume(f) ? enough_without_a_volume : enough_traces)) return out;
    if (has_no_volume(f)) out.emplace_back("no volume was found");
    out.push_back(
        fmt::format("pieces of folders and tables of another volume are in space that no entry claims ({})",
                    extent_of(*f.space)));
    if (f.missing_folders)
        out.push_back(
            counted(f.missing_folders, "folder is missing its name", "folders are missing their names"));
    if (!f.bare_partitions.empty())
        out.push_back(
            counted(f.bare_partitions.size(), "partition has no volume", "partitions have no volume"));
    for (const auto& v : f.volumes) {
        if (!v.former && v.readable && !v.own_head)
            out.push_back(fmt::format("the head of volume {} is gone", v.number));
    }
    return out;
}

std::vector<std::string> scan_words(const Facts& f, const std::string& reach) {
    std::vector<std::string> out{"undershelf", "scan", f.source};
    if (f.scanned()) out.insert(out.end(), {"--shelf", f.shelf, "--reach", reach});
    out.insert(out.end(), f.settings.begin(), f.settings.end());
    return out;
}

std::string what_is_not_done(const Shelf& shelf) {
    const auto facts = facts_of(shelf, Asked::summary);
    if (facts.contents == Facts::Pass::done) return {};
    const auto reach = facts.unfinished_reach.empty() ? std::string("content") : facts.unfinished_reach;
    return fmt::format(
        "Not done yet: {}{}: {}", facts.unfinished_reach.empty() ? std::string() : "the scan to its end, ",
        facts.has_swept() ? "the search for contents" : "the sweep and the search for contents",
        command_line(scan_words(facts, reach)));
}

}  // namespace undershelf
