#include <fmt/format.h>

#include <array>
#include <map>

#include "cli/command.hpp"
#include "cli/output.hpp"
#include "cli/table.hpp"
#include "shelf/shelf.hpp"
#include "volume/words.hpp"

namespace undershelf::cli {

namespace {

struct Counts {
    std::uint64_t folders = 0, files = 0, bytes = 0;
    std::array<std::uint64_t, 6> by_grade{};
};

using Rows = std::map<int, Counts>;

Rows rows_of(const Shelf& shelf, Shelf::TallyBy by) {
    Rows out;
    for (const auto& t : shelf.tally(by)) {
        auto& row = out[t.key.empty() ? 0 : std::stoi(t.key)];
        if (t.is_dir) {
            row.folders += t.entries;
            continue;
        }
        row.files += t.entries;
        row.bytes += t.bytes;
        row.by_grade[static_cast<std::size_t>(t.grade)] += t.entries;
    }
    return out;
}

constexpr std::array shown_grades{Grade::verified, Grade::likely, Grade::doubtful, Grade::partial,
                                  Grade::gone};

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

void print_volumes(const Shelf& shelf, const Terminal& terminal) {
    Table table(terminal, {{"VOLUME", 8},
                           {"SYSTEM", 8},
                           {"LABEL", 14},
                           {"SIZE", 12, true},
                           {"OFFSET", 18, true},
                           {"CLUSTER", 12, true},
                           {"  SERIAL", 8}});
    for (const auto& v : shelf.volumes()) {
        table.row({std::to_string(v.number), v.file_system, v.label.empty() ? "-" : v.label,
                   human_size(v.size), grouped(v.offset), human_size(v.cluster_size),
                   v.serial.empty() ? "-" : "  " + v.serial});
    }
    table.print();
}

struct Totals {
    Counts live, lost;
};

Totals totals_of(const Rows& by_origin) {
    Totals out;
    for (const auto& [origin, c] : by_origin) {
        auto& to = static_cast<Origin>(origin) == Origin::live ? out.live : out.lost;
        to.folders += c.folders;
        to.files += c.files;
        to.bytes += c.bytes;
        for (std::size_t i = 0; i < c.by_grade.size(); ++i) to.by_grade[i] += c.by_grade[i];
    }
    return out;
}

/// What the volumes themselves say: discarded space, or a fresh format.
void add_volume_advice(const Shelf& shelf, const Totals& totals, std::vector<std::string>& out) {
    bool discards = false;
    for (const auto& v : shelf.volumes()) {
        const auto said = shelf.setting(fmt::format("discards {}", v.number));
        if (said.empty()) continue;
        discards = true;
        out.push_back(fmt::format(
            "Volume {} discards what is deleted: {} deleted contents that nobody wrote over read as zeros. "
            "Names come back; contents do not. Stop using the drive at once, for what little is left.",
            v.number, said));
    }
    if (totals.lost.files > 0 || discards) return;
    if (totals.live.files < 3) {
        out.push_back(
            "The volume looks freshly formatted: hardly anything is on it, and nothing deleted was found. "
            "What was there before would have to be searched for over the whole source.");
    } else {
        out.push_back(
            "No deleted file was found: nothing on the volume tells of one any more. If the customer is "
            "sure, it was another drive, or the entries were written over.");
    }
}

std::vector<std::string> advice(const Shelf& shelf, const Totals& totals) {
    std::vector<std::string> out;
    const auto& grades = totals.lost.by_grade;
    const auto good =
        grades[static_cast<std::size_t>(Grade::likely)] + grades[static_cast<std::size_t>(Grade::verified)];
    const auto scan = shelf.last_scan();
    if (!scan || scan->state != "done")
        out.push_back("The scan is not finished: run the same `undershelf scan` again, and it goes on.");
    if (const auto bad = shelf.unreadable(); !bad.empty()) {
        out.push_back(fmt::format(
            "{} of the source cannot be read, in {}; files there are missing bytes. Work on a copy.",
            human_size(bad.bytes()), counted(bad.ranges().size(), "range", "ranges")));
    }
    add_volume_advice(shelf, totals, out);
    if (good)
        out.push_back(fmt::format("{} likely to open: undershelf export {} --to DIR --lost --grade likely+",
                                  counted(good, "lost file is", "lost files are"), shelf.path()));
    if (const auto copies = shelf.copies()) {
        out.push_back(
            fmt::format("{} still there as a live file, byte for byte; leave them out with --hide-copies.",
                        counted(copies, "lost file is", "lost files are")));
    }
    if (grades[static_cast<std::size_t>(Grade::doubtful)]) {
        out.push_back(fmt::format(
            "To look through the doubtful ones: undershelf list {} --lost --grade doubtful --sort -chance",
            shelf.path()));
    }
    if (const auto unknown = shelf.uncertain_names(NameCertainty::first_letter_unknown)) {
        out.push_back(
            fmt::format("{} the first letter of {}, shown as _; --name takes any letter for it. Ask the "
                        "customer how the names begin.",
                        counted(unknown, "lost file misses", "lost files miss"),
                        unknown == 1 ? "its name" : "their names"));
    }
    return out;
}

int run(const std::vector<std::string>& arguments) {
    po::options_description options("Options");
    options.add(color_option());
    const auto given = parse(summary_command(), options, {"SHELF"}, arguments);
    if (!given) return done;
    const auto terminal = terminal_from(*given);
    const Shelf shelf((*given)[":SHELF"].as<std::string>());
    const auto source = shelf.source();
    print("{}  {} ({} bytes)\n\n",
          terminal.styled(fitted(source.path, std::max(20, terminal.width() - 40)), Style::bold),
          human_size(source.size), grouped(source.size));
    print_volumes(shelf, terminal);
    const auto by_origin = rows_of(shelf, Shelf::TallyBy::origin);
    print("\n");
    print_counts(terminal, "ORIGIN", by_origin, true,
                 [](int origin) { return word(static_cast<Origin>(origin)); });
    print("\n");
    print_counts(terminal, "KIND", rows_of(shelf, Shelf::TallyBy::kind), false,
                 [](int kind) { return word(static_cast<Kind>(kind)); });
    const auto notes = shelf.diagnostics();
    const auto list = [&](const std::string& title, const std::vector<std::string>& lines) {
        if (lines.empty()) return;
        print("\n{}\n", terminal.styled(title, Style::dim));
        for (const auto& text : lines) {
            bool first = true;
            for (const auto& line : wrapped(text, terminal.width() - 4)) {
                print("{} {}\n", first ? " -" : "  ", line);
                first = false;
            }
        }
    };
    list("BROKEN STRUCTURES", notes);
    list("WHAT NEXT", advice(shelf, totals_of(by_origin)));
    return done;
}

}  // namespace

Command summary_command() {
    return {"summary", "SHELF", "counts and bytes by origin, kind, grade, volume; what to try next", run};
}

}  // namespace undershelf::cli
