#include <fmt/format.h>

#include "cli/command.hpp"
#include "cli/output.hpp"
#include "shelf/shelf.hpp"

namespace undershelf::cli {

namespace {

int run(const std::vector<std::string>& arguments, const Command& command, bool on) {
    po::options_description options("Options");
    options.add_options()("all", "every entry");
    add_selection(options);
    const auto given = parse(command, options, {"SHELF"}, arguments);
    if (!given) return done;
    auto selection = selection_from(*given);
    if (given->count("all")) selection.no_helpers = false;
    if (selection.selects_all() && !given->count("all")) {
        throw Error(
            Trouble::usage,
            fmt::format("Say what to {}: a selection such as --under 'Scripts' --grade likely+, or --all.",
                        command.name));
    }
    Shelf shelf((*given)[":SHELF"].as<std::string>(), Shelf::Access::mark);
    if (on && shelf.count(selection) == 0) {
        tell_why_nothing_fits(shelf, *given);
        return fell_short;
    }
    const auto changed = shelf.mark(selection, on);
    Selection marked;
    marked.marked = true;
    print("{} {}; {} marked now\n", counted(changed, "entry", "entries"), on ? "newly marked" : "unmarked",
          grouped(shelf.count(marked)));
    if (on)
        print("next: undershelf list {0} --marked, undershelf export {0} --to DIR --marked\n", shelf.path());
    return done;
}

}  // namespace

Command mark_command() {
    return {"mark", "SHELF [selection]", "mark files for export",
            [](const auto& arguments) { return run(arguments, mark_command(), true); }};
}
Command unmark_command() {
    return {"unmark", "SHELF [selection]", "remove marks",
            [](const auto& arguments) { return run(arguments, unmark_command(), false); }};
}

}  // namespace undershelf::cli
