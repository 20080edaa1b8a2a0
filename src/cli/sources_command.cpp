#include <fmt/format.h>
#include <unistd.h>

#include <filesystem>
#include <nlohmann/json.hpp>

#include "answers/sources.hpp"
#include "base/printable.hpp"
#include "cli/command.hpp"
#include "cli/output.hpp"
#include "cli/table.hpp"

namespace undershelf::cli {

namespace {

std::string or_dash(const std::string& text) {
    return text.empty() ? "-" : text;
}

std::string mount_text(const std::vector<DriveHealth::Mount>& mounts, bool swap) {
    std::string out = swap ? "swap" : "";
    for (const auto& m : mounts)
        out += fmt::format("{}{}{}", out.empty() ? "" : ", ", m.point, m.writable ? "" : " (read-only)");
    return or_dash(out);
}

void print_partitions(const AttachedDrive& d, const Terminal& terminal) {
    if (d.partitions.empty() && d.file_system.empty()) return;
    Table table(terminal,
                {{"  PARTITION", 16}, {"SYSTEM", 10}, {"LABEL", 16}, {"SIZE", 12, true}, {"  MOUNTED", 10}});
    if (d.partitions.empty())
        table.row({"  (whole)", or_dash(d.file_system), or_dash(d.label), human_size(d.size),
                   "  " + mount_text(d.health.mounts, d.swap)});
    for (const auto& p : d.partitions)
        table.row({"  " + p.name, or_dash(p.file_system),
                   or_dash(p.label.empty() ? p.partition_name : p.label), human_size(p.size),
                   "  " + mount_text(p.mounts, p.swap)});
    table.print();
}

void print_volumes(const Inspection& seen, const Terminal& terminal) {
    if (seen.volumes.empty()) return;
    Table table(terminal, {{"  VOLUME", 16}, {"SYSTEM", 10}, {"LABEL", 16}, {"SIZE", 12, true}});
    for (const auto& v : seen.volumes) {
        const auto& x = v.found.volume;
        table.row({fmt::format("  {}", x.number), x.file_system, or_dash(x.label), human_size(x.size)});
    }
    table.print();
}

void print_source(const ListedSource& s, bool as_root, const Terminal& terminal) {
    const auto size = s.drive ? s.drive->size : s.image->size;
    const auto description = description_of(s);
    print("{}  {}{}{}\n", terminal.styled(without_controls(path_of(s)), Style::bold), human_size(size),
          description.empty() ? "" : ", ", without_controls(description));
    if (s.drive)
        print_partitions(*s.drive, terminal);
    else
        print_volumes(*s.image, terminal);
    print_points(terminal, notes_on(s), Style::dim);
    print_points(terminal, plan_for(s, as_root).next);
}

/// A drive, one that a partition is of, a loop device, or an image file.
ListedSource source_at(const std::string& path, const SystemPlaces& places) {
    ListedSource out;
    out.drive = attached_drive(path, places);
    if (!out.drive) out.image = inspect(*open_source(path, {}));
    return out;
}

int run(const std::vector<std::string>& arguments) {
    po::options_description options("Options");
    options.add_options()("format", value("FORMAT", "text"), "text or json")(
        "health", "ask each drive how it is, through smartmontools; waits 5 s for each at most")(
        "root", value("DIR", ""), "look for sysfs, udev's files and mounts below this folder");
    options.add(color_option());
    const auto given = parse(sources_command(), options, {}, arguments, "PATH");
    if (!given) return done;
    const bool json = wants_json(*given);
    const auto terminal = terminal_from(*given);
    const auto places = SystemPlaces::under((*given)["root"].as<std::string>());
    std::vector<ListedSource> sources;
    if (given->count(":PATH")) {
        for (const auto& path : (*given)[":PATH"].as<std::vector<std::string>>())
            sources.push_back(source_at(path, places));
    } else {
        for (auto& drive : attached_drives(places)) sources.push_back({std::move(drive), {}, {}});
    }
    if (given->count("health")) {
        for (auto& s : sources) {
            if (s.drive) s.smart = ask_smart(s.drive->path);
        }
    }
    const bool as_root = ::geteuid() == 0;
    if (json) {
        print_json(sources_json(sources, as_root));
        return done;
    }
    bool first = true;
    for (const auto& s : sources) {
        if (!first) print("\n");
        first = false;
        print_source(s, as_root, terminal);
    }
    if (sources.empty())
        print("No drive is attached that this system shows. Give image files: undershelf sources FILE ...\n");
    return done;
}

}  // namespace

Command sources_command() {
    return {"sources", "[PATH ...]", "attached drives, sticks and cards, each with its next command", run};
}

}  // namespace undershelf::cli
