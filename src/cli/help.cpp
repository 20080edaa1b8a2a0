#include "cli/help.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <map>
#include <sstream>

#include "cli/output.hpp"

namespace undershelf::cli {

namespace {

/// Two of each command, on volumes of the demo.
const std::map<std::string, std::vector<std::string>>& examples() {
    static const std::map<std::string, std::vector<std::string>> out{
        {"sources", {"undershelf sources", "undershelf sources --health"}},
        {"inspect", {"undershelf inspect theatre-card.img", "undershelf inspect /dev/sdb --format json"}},
        {"capture",
         {"undershelf capture /dev/sdb stick.img",
          "undershelf capture /dev/sdb stick.img --from stick.shelf --kind picture"}},
        {"scan", {"undershelf scan theatre-card.img", "undershelf scan theatre-lost.img --reach traces"}},
        {"check",
         {"undershelf check theatre-card.shelf",
          "undershelf check theatre-card.shelf --origin live --kind picture"}},
        {"list",
         {"undershelf list theatre-card.shelf --lost --name summer --grade likely+ --sort -size",
          "undershelf list theatre-card.shelf --group folder --depth 1"}},
        {"tree",
         {"undershelf tree theatre-card.shelf --lost",
          "undershelf tree theatre-card.shelf --folders --depth 2"}},
        {"summary",
         {"undershelf summary theatre-card.shelf", "undershelf summary theatre-card.shelf --format json"}},
        {"show",
         {"undershelf show theatre-card.shelf 34",
          "undershelf show theatre-card.shelf 'Scripts/autumn.txt'"}},
        {"peek",
         {"undershelf peek theatre-card.shelf 38",
          "undershelf peek theatre-card.shelf 38 --draw /media/rescue/autumn.png",
          "undershelf peek theatre-card.shelf --kind picture --draw /media/rescue/pictures"}},
        {"sheet",
         {"undershelf sheet theatre-card.shelf --lost --to theatre-card.html",
          "undershelf sheet theatre-card.shelf --kind picture --group month --to pictures.pdf"}},
        {"mark",
         {"undershelf mark theatre-card.shelf --under 'Scripts/Summer play'",
          "undershelf mark theatre-card.shelf --as posters --kind picture --not-name draft"}},
        {"unmark",
         {"undershelf unmark theatre-card.shelf --grade gone",
          "undershelf unmark theatre-card.shelf --as posters --all"}},
        {"export",
         {"undershelf export theatre-card.shelf --to /media/rescue/candlewick --lost --grade likely+",
          "undershelf export theatre-card.shelf --to /media/rescue/posters --marked posters"}},
        {"verify",
         {"undershelf verify /media/rescue/candlewick", "undershelf verify /media/rescue/summer-play"}},
        {"report",
         {"undershelf report theatre-card.shelf --to quote --wanted wanted.txt",
          "undershelf report theatre-card.shelf --to report --export /media/rescue/candlewick --case "
          "2025-118"}},
        {"demo", {"undershelf demo", "undershelf demo /tmp/candlewick-lane"}},
    };
    return out;
}

}  // namespace

void print_help(const Command& command, const po::options_description& options) {
    print("usage: undershelf {} {}\n\n{}.\n\n", command.name, command.arguments, command.summary);
    std::ostringstream text;
    text << options;
    print("{}", text.str());
    if (command.selects) print("\nSelection: which entries; `undershelf help selection` has its options.\n");
    const auto it = examples().find(command.name);
    if (it == examples().end()) return;
    print("\nExamples:\n");
    for (const auto& example : it->second) print("  {}\n", example);
}

void print_selection_help() {
    po::options_description options("Options");
    add_options(options, selection_options());
    std::ostringstream text;
    text << options;
    std::vector<std::string> those;
    for (const auto& c : commands()) {
        if (c.selects) those.push_back(c.name);
    }
    print(
        "A selection says which entries a command is about. These take one: {}.\n\n"
        "Different options narrow one another; values of one option, with commas between them or given "
        "several\n"
        "times, are alternatives. Case does not count.\n\n{}\n"
        "Examples:\n"
        "  --lost --kind picture --grade likely+        lost pictures that should open\n"
        "  --name summer --not-ext tmp,bak              names with `summer` in them, no leavings\n"
        "  --under 'Scripts/Summer play' --modified 7d.. of the last seven days\n"
        "  --marked posters                             what `undershelf mark --as posters` kept\n",
        fmt::format("{}", fmt::join(those, ", ")), text.str());
}

}  // namespace undershelf::cli
