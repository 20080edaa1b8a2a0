#include <fmt/format.h>
#include <fmt/ranges.h>

#include "answers/counts.hpp"
#include "answers/steps.hpp"
#include "base/printable.hpp"
#include "cli/command.hpp"
#include "cli/output.hpp"
#include "cli/under_way.hpp"
#include "volume/words.hpp"

namespace undershelf::cli {

namespace {

constexpr std::size_t longest_name = 100;

/// The name to mark under; empty without one.
std::string name_from(const po::variables_map& given) {
    if (!given.count("as")) return {};
    const auto name = given["as"].as<std::string>();
    if (name.size() > longest_name || name.starts_with("-") || without_controls(name) != name)
        throw Error(Trouble::usage,
                    fmt::format("--as takes a name of {} bytes at most, without control characters and not "
                                "beginning with a dash.",
                                longest_name));
    return name;
}

/// `12 files, 3.4 MiB: 8 verified, 4 likely`.
std::string in_words(const Shelf::Sum& sum) {
    auto out = counted(sum.files, "file", "files");
    if (sum.folders) out += " and " + counted(sum.folders, "folder", "folders");
    out += ", " + human_size(sum.bytes);
    std::vector<std::string> grades;
    for (const auto grade : shown_grades) {
        if (const auto n = sum.by_grade[static_cast<std::size_t>(grade)])
            grades.push_back(fmt::format("{} {}", grouped(n), word(grade)));
    }
    if (sum.by_grade[0]) grades.push_back(fmt::format("{} not rated yet", grouped(sum.by_grade[0])));
    if (!grades.empty()) out += fmt::format(": {}", fmt::join(grades, ", "));
    return out;
}

void tell_of_marks(const Shelf& shelf, const std::string& name) {
    Selection marked;
    marked.marked = true;
    if (!name.empty()) marked.marks = {name};
    print("marked now{}: {}\n", name.empty() ? "" : " as " + name, in_words(shelf.sum(marked)));
    if (!name.empty()) return;
    for (const auto& [other, entries] : shelf.mark_names())
        print("  as {}: {}\n", other, counted(entries, "entry", "entries"));
}

int run(const std::vector<std::string>& arguments, const Command& command, bool on) {
    po::options_description options("Options");
    options.add_options()("as", value("NAME"),
                          on ? "mark them under this name, beside other marks: --marked NAME selects them"
                             : "take away the marks of this name alone; without it all marks")(
        "all", "every entry")("source", value("SOURCE", ""), "where the source is now, if it moved");
    const auto given = parse(command, options, {"SHELF"}, arguments);
    if (!given) return done;
    const auto name = name_from(*given);
    auto selection = selection_from(*given);
    if (given->count("all")) selection.no_helpers = false;
    if (selection.selects_all() && !given->count("all")) {
        throw Error(
            Trouble::usage,
            fmt::format("Say what to {}: a selection such as --under 'Scripts' --grade likely+, or --all.",
                        command.name));
    }
    Shelf shelf((*given)[":SHELF"].as<std::string>(), Shelf::Access::mark);
    const auto chosen = choose_from(std::move(selection), *given, shelf);
    tell_of_looking(shelf, chosen);
    if (on && shelf.count(chosen.selection) == 0) {
        tell_why_nothing_fits(shelf, *given);
        return fell_short;
    }
    const auto changed = shelf.mark(chosen.selection, on, name, noted_in(shelf.path()));
    print("{} {}\n", counted(changed, "entry", "entries"), on ? "newly marked" : "unmarked");
    tell_of_marks(shelf, name);
    if (!on) return done;
    std::vector<std::string> these{"--marked"};
    if (!name.empty()) these.push_back(name);
    const auto path = command_line({shelf.path()}), marks = command_line(these);
    print("next: undershelf list {0} {1}, undershelf export {0} --to DIR {1}\n", path, marks);
    return done;
}

Command marking(const char* name, const char* summary, bool on, Command (*self)()) {
    Command out{name, "SHELF [selection]", summary,
                [self, on](const auto& arguments) { return run(arguments, self(), on); }};
    out.selects = true;
    return out;
}

}  // namespace

Command mark_command() {
    return marking("mark", "mark files for export, under a name or without one", true, mark_command);
}
Command unmark_command() {
    return marking("unmark", "remove marks", false, unmark_command);
}

}  // namespace undershelf::cli
