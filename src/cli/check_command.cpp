#include <fmt/format.h>
#include <fmt/ranges.h>

#include <nlohmann/json.hpp>

#include "answers/planner.hpp"
#include "answers/results_json.hpp"
#include "cli/command.hpp"
#include "cli/output.hpp"
#include "cli/progress_line.hpp"
#include "cli/table.hpp"
#include "cli/under_way.hpp"
#include "scan/check_contents.hpp"

namespace undershelf::cli {

namespace {

void print_result(const CheckResult& r) {
    std::vector<std::string> parts;
    const auto add = [&](std::uint64_t files, const char* what) {
        if (files) parts.push_back(fmt::format("{} {}", grouped(files), what));
    };
    add(r.verified, "verified");
    add(r.live_held, "live and held by a strong or fair check");
    add(r.held, "held by a weak check, or short of their length");
    add(r.broken, "broken");
    add(r.cut, "cut off");
    print("checked {}, {}{}\n", counted(checked_files(r), "file", "files"), human_size(r.bytes),
          parts.empty() ? std::string() : fmt::format(": {}", fmt::join(parts, ", ")));
    if (r.mended)
        print("{} mended: laid out in pieces, by what is in them (--mended selects them)\n",
              counted(r.mended, "file is", "files are"));
    if (r.unknown) print("{} of formats that are not checked\n", counted(r.unknown, "file is", "files are"));
    if (r.waiting)
        print("{} not copied into the image to the end yet; go on with the capture, scan, and check again\n",
              counted(r.waiting, "file is", "files are"));
    if (r.unfinished)
        print("{} not checked: too large or too slow. Entry {}: {}.\n",
              counted(r.unfinished, "file was", "files were"), r.first_unfinished->first,
              r.first_unfinished->second);
    if (r.unnamed)
        print("{} read to {} end when found, without a name\n", counted(r.unnamed, "file was", "files were"),
              r.unnamed == 1 ? "its" : "their");
    if (r.before)
        print("{} checked before; --again checks them once more\n",
              counted(r.before, "file was", "files were"));
}

int run(const std::vector<std::string>& arguments) {
    po::options_description options("Options");
    options.add_options()("again", "also what was checked before")("source", value("SOURCE", ""),
                                                                   "where the source is now, if it moved");
    add_effort(options);
    add_script_options(options);
    const auto given = parse(check_command(), options, {"SHELF"}, arguments);
    if (!given) return done;
    const bool json = wants_json(*given);
    CheckOptions check;
    check.shelf_path = (*given)[":SHELF"].as<std::string>();
    check.source_path = (*given)["source"].as<std::string>();
    check.effort = effort_from(*given);
    {
        const Shelf shelf(check.shelf_path);
        const auto chosen = chosen_from(*given, shelf);
        if (!tell_of_looking(shelf, chosen)) return interrupted;
        check.selection = chosen.selection;
        if (shelf.count(check.selection) == 0) tell_why_nothing_fits(shelf, *given);
    }
    check.again = given->count("again") > 0;
    // A live file is what its driver reads: it is checked only when somebody asks for it.
    if (check.selection.selects_all()) check.selection = all_lost();
    check.command = noted_in(check.shelf_path);
    CheckResult r;
    {
        ProgressLine progress(true, progress_form(*given));
        r = check_contents(check, progress);
    }
    const auto next = plan(facts_of(Shelf(check.shelf_path), Asked::check));
    if (json) {
        print_json(check_json(check, r, next));
    } else {
        print_result(r);
        if (!r.interrupted) print_points(Terminal(), "WHAT NEXT", next.next);
    }
    flush_out();
    if (!r.interrupted) return done;
    note("undershelf: interrupted. What was checked is in {}; the same command goes on from there.\n",
         check.shelf_path);
    return interrupted;
}

}  // namespace

Command check_command() {
    Command out{"check", "SHELF [selection]", "read lost contents to their end: which of them hold?", run,
                true};
    out.selects = true;
    return out;
}

}  // namespace undershelf::cli
