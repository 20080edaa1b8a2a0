#include <fmt/format.h>
#include <fmt/ranges.h>

#include <filesystem>
#include <nlohmann/json.hpp>
#include <regex>

#include "answers/planner.hpp"
#include "answers/results_json.hpp"
#include "base/text.hpp"
#include "cli/command.hpp"
#include "cli/output.hpp"
#include "cli/progress_line.hpp"
#include "cli/table.hpp"
#include "cli/under_way.hpp"
#include "scan/scan.hpp"
#include "systems/file_systems.hpp"
#include "volume/words.hpp"

namespace undershelf::cli {

namespace {

namespace fs = std::filesystem;

/// `card.img` becomes `card.shelf`, in the folder one works in and not beside the source.
std::string default_shelf(const std::string& source) {
    return fs::path(source).filename().replace_extension(".shelf").string();
}

/// `+01:00`, `-5:30`, `2`: minutes east of UTC.
int parse_zone(const std::string& text) {
    static const std::regex form("([+-]?)([0-9]{1,2})(:([0-9]{2}))?");
    std::smatch part;
    const bool fits = std::regex_match(text, part, form);
    const int sign = fits && part[1] == "-" ? -1 : 1;
    const int hours = fits ? std::stoi(part[2]) : 0,
              minutes = fits && part[4].matched ? std::stoi(part[4]) : 0;
    if (!fits || hours > 14 || minutes > 59) {
        throw Error(
            Trouble::usage,
            fmt::format("`{}` in --zone is not an offset from UTC; write for example +01:00 or -05:30.",
                        text));
    }
    return sign * (hours * 60 + minutes);
}

/// OFFSET,SYSTEM[,CLUSTER[,DATA]]
VolumeHint parse_told(const std::string& text) {
    const auto parts = split_list({text});
    if (parts.size() < 2 || parts.size() > 4) {
        throw Error(
            Trouble::usage,
            fmt::format("`{}` in --volume-at is not OFFSET,SYSTEM[,CLUSTER[,DATA]]; write for example "
                        "1048576,FAT32,4096: where the volume began, its file system, the bytes of a "
                        "cluster, and where the first cluster is.",
                        text));
    }
    VolumeHint out;
    out.offset = size_from(parts[0], "volume-at");
    for (const auto system : system_names()) {
        if (folded(std::string(system)) == folded(parts[1])) out.system = system;
    }
    if (out.system.empty())
        throw Error(Trouble::usage,
                    fmt::format("`{}` in --volume-at is no file system that this version reads; give {}.",
                                parts[1], fmt::join(system_names(), ", ")));
    if (parts.size() > 2) {
        const auto cluster = size_from(parts[2], "volume-at");
        if (cluster < 512 || cluster > (64u << 20) || (cluster & (cluster - 1)))
            throw Error(Trouble::usage,
                        fmt::format("`{}` in --volume-at is no size of a cluster; it is a power "
                                    "of two from 512 on.",
                                    parts[2]));
        out.cluster_size = static_cast<std::uint32_t>(cluster);
    }
    if (parts.size() > 3) out.data_offset = size_from(parts[3], "volume-at");
    return out;
}

void print_unnamed(const ScanOptions& options, std::uint64_t unnamed) {
    print("{} lost {} and {} recognised by content: undershelf tree {} --origin unnamed\n",
          counted(unnamed, "of them has", "of them have"), unnamed == 1 ? "its name" : "their names",
          unnamed == 1 ? "was" : "were", options.shelf_path);
}

void print_result(const ScanOptions& options, const ScanResult& result) {
    for (const auto& v : result.volumes) {
        const bool former = v.state == VolumeState::former;
        print("volume {}  {}{}{}, {} at offset {}{}\n", v.number, former ? "former " : "", v.file_system,
              v.label.empty() ? "" : " “" + fitted(v.label, 40) + "”", human_size(v.size), grouped(v.offset),
              by_own_head(v) ? "" : ", " + how_found(v));
    }
    if (result.gained)
        print("{} could be read that could not be before; what is there is added.\n",
              human_size(result.gained));
    if (result.was_complete) {
        print("Nothing to do: {} already contains this scan.\n", options.shelf_path);
    }
    print("{} in {}: undershelf summary {}\n", counted(result.entries, "entry", "entries"),
          options.shelf_path, options.shelf_path);
    if (result.unnamed) print_unnamed(options, result.unnamed);
}

void tell_of_no_volume(const ScanOptions& options) {
    note("undershelf: No supported volume ({}) found {}.\n", fmt::join(system_names(), ", "),
         options.reach == Reach::volumes
             ? fmt::format("in {} where maps or convention put one", options.source_path)
             : fmt::format("at any sector of {}", options.source_path));
}

void print_troubles(const ScanResult& result) {
    if (!result.unreadable.empty()) {
        note("undershelf: {} in {} could not be read; files stored there are incomplete.\n",
             human_size(result.unreadable.bytes()),
             counted(result.unreadable.ranges().size(), "range", "ranges"));
    }
    if (!result.not_copied.empty()) {
        note(
            "undershelf: {} of the source is not copied yet, in {}; what is there is not lost. Go on "
            "with "
            "the capture, and give this command again: it adds what has come.\n",
            human_size(result.not_copied.bytes()),
            counted(result.not_copied.ranges().size(), "range", "ranges"));
    }
    std::size_t shown = 0;
    for (const auto& d : result.diagnostics) {
        if (++shown > 5) break;
        note("undershelf: {}\n", d);
    }
    if (result.diagnostics.size() > 5)
        note("undershelf: {} more such notes are in the shelf; `undershelf summary` lists them.\n",
             result.diagnostics.size() - 5);
}

po::options_description scan_options() {
    po::options_description out("Options");
    out.add_options()("shelf", value("SHELF"),
                      "the shelf to write (default: the source's name with .shelf, here)")(
        "reach", value("REACH", "volumes"),
        "volumes (fast), traces (also sweep every sector for lost volumes), content (also check files and "
        "find nameless ones)")("unreadable", value("FILE", ""),
                               "CSV of `offset,length`: ranges to treat as unreadable")(
        "volume-at", values("PLACE"), "OFFSET,SYSTEM[,CLUSTER[,DATA]]: a former volume started at OFFSET")(
        "without-volume", po::value<std::vector<int>>()->value_name("NUMBER")->composing(),
        "ignore former volume N (false detection)")("code-page", value("NUMBER", "437"),
                                                    "of short names on FAT volumes")(
        "zone", value("ZONE"), "offset from UTC of local times on the volume, as +01:00");
    add_script_options(out);
    add_narrowing(out);
    add_effort(out);
    return out;
}

ScanOptions options_from(const po::variables_map& given) {
    const bool hints = given.count("volume-at") || given.count("without-volume");
    const auto said = given["reach"].as<std::string>();
    const auto known = reach_from_word(said);
    if (!known)
        throw Error(Trouble::usage,
                    fmt::format("`{}` is not a reach; give volumes, traces or content.", said));
    ScanOptions out;
    out.source_path = given[":SOURCE"].as<std::string>();
    out.shelf_path = given.count("shelf") ? given["shelf"].as<std::string>() : default_shelf(out.source_path);
    // Former volumes are made of what a sweep finds.
    out.reach = hints && given["reach"].defaulted() ? Reach::traces : *known;
    out.contents = narrowing_from(given);
    out.effort = effort_from(given);
    if (hints && out.reach == Reach::volumes)
        throw Error(Trouble::usage, "--volume-at and --without-volume go with --reach traces or content.");
    if (given.count("volume-at")) {
        for (const auto& text : given["volume-at"].as<std::vector<std::string>>())
            out.told.push_back(parse_told(text));
    }
    if (given.count("without-volume")) out.without = given["without-volume"].as<std::vector<int>>();
    out.unreadable_list = given["unreadable"].as<std::string>();
    out.read.code_page = given["code-page"].as<std::string>();
    if (given.count("zone")) out.read.zone_minutes = parse_zone(given["zone"].as<std::string>());
    return out;
}

int run(const std::vector<std::string>& arguments) {
    const auto given = parse(scan_command(), scan_options(), {"SOURCE"}, arguments);
    if (!given) return done;
    const bool json = wants_json(*given);
    auto options = options_from(*given);
    options.command = noted_in(options.shelf_path);
    refuse_shelf(options.source_path);
    warn_of_mounts(options.source_path);
    ScanResult result;
    {
        ProgressLine progress(false, progress_form(*given));
        result = scan(options, progress);
    }
    auto facts = facts_of(Shelf(options.shelf_path), Asked::scan);
    facts.source = options.source_path;  // as it was typed
    const auto next = plan(facts);
    if (json) {
        print_json(scan_json(options, result, next));
    } else {
        if (!result.volumes.empty() || result.entries > 0) print_result(options, result);
        flush_out();
        print_troubles(result);
        if (result.volumes.empty() && !result.interrupted) tell_of_no_volume(options);
        if (!result.interrupted) print_points(Terminal(), "WHAT NEXT", next.next);
    }
    flush_out();
    if (result.interrupted) {
        note("undershelf: interrupted. What was found is in {}; the same command goes on from there.\n",
             options.shelf_path);
        return interrupted;
    }
    const bool anything = !result.volumes.empty() || result.entries > 0;
    const bool all =
        anything && result.unreadable.empty() && result.not_copied.empty() && result.diagnostics.empty();
    return all ? done : status_for_scripts(fell_short, *given);
}

}  // namespace

Command scan_command() {
    return {"scan", "SOURCE [--shelf FILE]", "read metadata into a shelf", run, true};
}

}  // namespace undershelf::cli
