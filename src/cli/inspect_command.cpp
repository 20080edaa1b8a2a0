#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "answers/inspection.hpp"
#include "answers/planner.hpp"
#include "base/printable.hpp"
#include "cli/command.hpp"
#include "cli/output.hpp"
#include "cli/table.hpp"
#include "scan/inspect.hpp"

namespace undershelf::cli {

namespace {

/// One character a stretch: the number of the volume that has most of it, `-` for a partition without a
/// recognised volume, `.` for what nobody has.
std::string map_line(const Inspection& seen, int width) {
    std::string line(static_cast<std::size_t>(width), '.');
    const auto cell = static_cast<double>(seen.size) / width;
    const auto draw = [&](const ByteRange& range, char mark) {
        const auto first = static_cast<int>(static_cast<double>(range.offset) / cell);
        const auto last =
            static_cast<int>((static_cast<double>(std::min(range.end(), seen.size)) - 1) / cell);
        for (int i = first; i <= last && i < width; ++i) line[static_cast<std::size_t>(i)] = mark;
    };
    if (seen.map) {
        for (const auto& p : seen.map->partitions) {
            if (p.is_room()) draw({p.offset, p.size}, '-');
        }
    }
    for (const auto& v : seen.volumes) {
        const auto n = v.found.volume.number;
        draw({v.found.volume.offset, v.found.volume.size}, n < 10 ? static_cast<char>('0' + n) : '#');
    }
    return line;
}

void print_map(const Inspection& seen, const Terminal& terminal) {
    if (!seen.map) {
        print("\n{}\n", seen.volumes.empty() || seen.volumes.front().found.volume.offset != 0
                            ? "No partition map."
                            : "No partition map: the volume starts at byte 0.");
        return;
    }
    print("\n{}{}\n", terminal.styled(seen.map->scheme, Style::bold),
          seen.map->condition == "ok" ? "" : ", " + seen.map->condition);
    Table table(terminal,
                {{"PARTITION", 10}, {"OFFSET", 18, true}, {"SIZE", 12, true}, {"  TYPE", 24}, {"STATE", 5}});
    for (const auto& p : seen.map->partitions) {
        const auto type = p.name.empty() ? p.type : p.type + " “" + p.name + "”";
        table.row(
            {std::to_string(p.number), grouped(p.offset), human_size(p.size), "  " + type + "  ", p.state});
    }
    table.print();
}

std::string full_text(const InspectedVolume& v) {
    if (!v.space || v.space->used + v.space->free == 0) return "-";
    const auto percent =
        100.0 * static_cast<double>(v.space->used) / static_cast<double>(v.space->used + v.space->free);
    return v.space->used && percent < 1 ? "<1 %" : fmt::format("{:.0f} %", percent);
}

void print_volumes(const Inspection& seen, const Terminal& terminal) {
    if (seen.volumes.empty()) return;
    print("\n");
    Table table(terminal, {{"VOLUME", 8},
                           {"SYSTEM", 10},
                           {"LABEL", 14},
                           {"OFFSET", 18, true},
                           {"SIZE", 12, true},
                           {"CLUSTER", 10, true},
                           {"FULL", 8, true},
                           {"  SERIAL", 8}});
    for (const auto& v : seen.volumes) {
        const auto& x = v.found.volume;
        // Long names of what is only recognised push the rest aside instead of being cut.
        table.row({std::to_string(x.number), x.file_system + " ", x.label.empty() ? "-" : x.label,
                   grouped(x.offset), human_size(x.size), x.cluster_size ? human_size(x.cluster_size) : "-",
                   full_text(v), "  " + (x.serial.empty() ? "-" : x.serial)});
    }
    table.print();
}

void print_drive(const DriveHealth& drive, const Terminal& terminal) {
    std::string line = drive.model;
    if (!drive.serial.empty()) line += fmt::format("{}serial {}", line.empty() ? "" : ", ", drive.serial);
    if (!line.empty()) print("{}\n", terminal.styled(fitted(line, terminal.width()), Style::plain));
}

void print_text(const Inspection& seen, const Plan& next, const Terminal& terminal) {
    print("{}  {} ({} bytes), sectors of {} bytes\n",
          terminal.styled(fitted(seen.path, std::max(20, terminal.width() - 60)), Style::bold),
          human_size(seen.size), grouped(seen.size), seen.sector_size);
    if (seen.drive) print_drive(*seen.drive, terminal);
    print("[{}]\n", terminal.styled(map_line(seen, std::min(100, terminal.width() - 2)), Style::middle));
    std::string legend = " digits: volumes";
    if (seen.map) legend += "   -: partition without one";
    print("{}\n", terminal.styled(legend + "   .: unassigned", Style::dim));
    print_map(seen, terminal);
    print_volumes(seen, terminal);
    print_points(terminal, "HEALTH", health(seen));
    print_points(terminal, "WHAT NEXT", next.next);
}

int run(const std::vector<std::string>& arguments) {
    po::options_description options("Options");
    options.add_options()("format", value("FORMAT", "text"), "text or json")(
        "unreadable", value("FILE", ""), "CSV of `offset,length`: ranges to treat as unreadable")(
        "code-page", value("NUMBER", "437"), "of labels on FAT volumes");
    options.add(color_option());
    const auto given = parse(inspect_command(), options, {"SOURCE"}, arguments);
    if (!given) return done;
    const bool json = wants_json(*given);
    const auto terminal = terminal_from(*given);
    refuse_shelf((*given)[":SOURCE"].as<std::string>());
    const auto source =
        open_source((*given)[":SOURCE"].as<std::string>(), {(*given)["unreadable"].as<std::string>()});
    ReadOptions read;
    read.code_page = (*given)["code-page"].as<std::string>();
    const auto seen = inspect(*source, read);
    auto facts = facts_of(seen);
    for (const auto* option : {"code-page", "unreadable"}) {
        const auto& value = (*given)[option];
        if (!value.defaulted())
            facts.settings.insert(facts.settings.end(),
                                  {fmt::format("--{}", option), value.as<std::string>()});
    }
    const auto next = plan(facts);
    if (json) {
        print_json(inspection_json(seen, next));
    } else {
        print_text(seen, next, terminal);
    }
    return seen.volumes.empty() || !seen.unreadable.empty() || (seen.map && seen.map->condition != "ok")
               ? fell_short
               : done;
}

}  // namespace

Command inspect_command() {
    return {"inspect", "SOURCE", "what is here: size, partition map, volumes, health, advice", run};
}

}  // namespace undershelf::cli
