#include <fmt/format.h>
#include <fmt/ranges.h>

#include <nlohmann/json.hpp>
#include <sstream>

#include "answers/planner.hpp"
#include "answers/steps.hpp"
#include "answers/summary_json.hpp"
#include "base/printable.hpp"
#include "cli/command.hpp"
#include "cli/output.hpp"
#include "cli/table.hpp"
#include "volume/words.hpp"

namespace undershelf::cli {

namespace {

/// A zero is a dash: what is there stands out.
std::string number(std::uint64_t n) {
    return n ? grouped(n) : "-";
}

/// Counts by grade, a row for each of `rows` under its name.
template <class NameOf>
void print_counts(const Terminal& terminal, const std::string& title, const Rows& rows, bool folders,
                  const NameOf& name_of) {
    std::vector<Table::Head> heads{{title, 12}};
    if (folders) heads.push_back({"FOLDERS", 9, true});
    heads.push_back({"FILES", 10, true});
    heads.push_back({"SIZE", 12, true});
    for (const auto g : shown_grades) {
        std::string name(word(g));
        for (auto& c : name) c = static_cast<char>(std::toupper(static_cast<unsigned char>(c)));
        heads.push_back({name, 10, true});
    }
    Table table(terminal, std::move(heads));
    for (const auto& [key, c] : rows) {
        if (!folders && c.files == 0) continue;
        std::vector<std::string> cells{std::string(name_of(key))};
        if (folders) cells.push_back(number(c.folders));
        cells.push_back(number(c.files));
        cells.push_back(c.files ? human_size(c.bytes) : "-");
        for (const auto g : shown_grades) cells.push_back(number(c.by_grade[static_cast<std::size_t>(g)]));
        table.row(std::move(cells));
    }
    table.print();
}

/// How a volume was found, where that is not by a head whose structures all hold.
std::string about(const Volume& v) {
    if (v.state == VolumeState::former) {
        auto out = fmt::format("Volume {} is a former one, {}.", v.number, how_found(v));
        std::istringstream votes(v.votes);
        for (std::string line; std::getline(votes, line);) out += " " + line;
        return out;
    }
    if (by_own_head(v) && v.support >= 1) return {};
    return fmt::format("Volume {} was {}; {} of the structures it points to are where they should be.",
                       v.number, how_found(v), share_in_words(v.support));
}

/// Best first. Returns what is to be said of some of them.
std::vector<std::string> print_volumes(const Shelf& shelf, const Terminal& terminal) {
    Table table(terminal, {{"VOLUME", 8},
                           {"SYSTEM", 8},
                           {"STATE", 9},
                           {"LABEL", 14},
                           {"SIZE", 12, true},
                           {"OFFSET", 17, true},
                           {"CLUSTER", 10, true},
                           {"FILES", 9, true},
                           {"LIKELY", 9, true},
                           {"  SERIAL", 8}});
    auto counts = rows_of(shelf, Shelf::TallyBy::volume);
    std::vector<std::string> notes;
    for (const auto& v : best_first(shelf.volumes(), counts)) {
        const auto& c = counts[v.number];
        table.row({std::to_string(v.number), v.file_system, std::string(word(v.state)),
                   v.label.empty() ? "-" : v.label, human_size(v.size), grouped(v.offset),
                   v.cluster_size ? human_size(v.cluster_size) : "-", number(c.files),
                   number(likely_or_better(c)), "  " + (v.serial.empty() ? "-" : v.serial)});
        if (const auto how = about(v); !how.empty()) notes.push_back(how);
    }
    table.print();
    return notes;
}

/// `4 of 9 lost files are exported; left are 2 likely and 3 doubtful: undershelf list ...`
std::string what_is_left(const Facts& f) {
    std::uint64_t exported = 0;
    for (const auto n : f.exported_lost) exported += n;
    std::vector<std::string> left;
    for (const auto g : shown_grades) {
        if (g == Grade::gone) continue;  // nobody exports these
        if (const auto n = f.left_of(g)) left.push_back(fmt::format("{} {}", grouped(n), word(g)));
    }
    const auto out = fmt::format("{} of {} exported", grouped(exported),
                                 counted(f.lost.files, "lost file is", "lost files are"));
    if (left.empty()) return out + (f.left_of(Grade::gone) ? "; the others are gone." : "; nothing is left.");
    return fmt::format("{}; left: {}: {}", out, fmt::join(left, ", "),
                       command_line({"undershelf", "list", f.shelf, "--lost", "--not-exported"}));
}

int run(const std::vector<std::string>& arguments) {
    po::options_description options("Options");
    options.add_options()("format", value("FORMAT", "text"), "text or json");
    options.add(color_option());
    const auto given = parse(summary_command(), options, {"SHELF"}, arguments);
    if (!given) return done;
    const bool json = wants_json(*given);
    const auto terminal = terminal_from(*given);
    const Shelf shelf((*given)[":SHELF"].as<std::string>());
    if (json) {
        print_json(summary_json(shelf));
        return done;
    }
    const auto source = shelf.source();
    print("{}  {} ({} bytes)\n\n",
          terminal.styled(fitted(source.path, std::max(20, terminal.width() - 40)), Style::bold),
          human_size(source.size), grouped(source.size));
    std::vector<std::string> volume_notes;
    if (!shelf.volumes().empty()) {
        volume_notes = print_volumes(shelf, terminal);
        print("\n");
    }
    const auto by_origin = rows_of(shelf, Shelf::TallyBy::origin);
    print_counts(terminal, "ORIGIN", by_origin, true,
                 [](int origin) { return word(static_cast<Origin>(origin)); });
    print("\n");
    print_counts(terminal, "KIND", rows_of(shelf, Shelf::TallyBy::kind), false,
                 [](int kind) { return word(static_cast<Kind>(kind)); });
    if (const auto helpers = shelf.helpers())
        print("\n{} not counted, as {} only {} a bin or a viewer: undershelf list {} --helpers\n",
              counted(helpers, "file is", "files are"), helpers == 1 ? "it" : "they",
              helpers == 1 ? "serves" : "serve", shelf.path());
    const auto facts = facts_of(shelf, Asked::summary);
    if (facts.any_exported()) print("\n{}\n", what_is_left(facts));
    const auto notes = shelf.diagnostics();
    print_points(terminal, "VOLUMES", volume_notes);
    print_points(terminal, "BROKEN STRUCTURES", notes);
    print_points(terminal, "WHAT NEXT", plan(facts).next);
    return done;
}

}  // namespace

Command summary_command() {
    return {"summary", "SHELF", "counts and bytes by origin, kind, grade, volume; what to try next", run};
}

}  // namespace undershelf::cli
