#include <fmt/format.h>

#include "answers/counts.hpp"
#include "answers/steps.hpp"
#include "base/printable.hpp"
#include "cli/command.hpp"
#include "cli/output.hpp"
#include "preview/sheet.hpp"
#include "scan/source_identity.hpp"

namespace undershelf::cli {

namespace {

int run(const std::vector<std::string>& arguments) {
    po::options_description options("Options");
    options.add_options()("to", value("FILE"),
                          "the sheet: FILE.html to look through and tick, or FILE.pdf or FILE.png, to print")(
        "group", value("BY", "folder"), "folder, kind, ext, format, volume, origin, grade, year or month")(
        "source", value("SOURCE", ""), "where the source is now, if it moved");
    const auto given = parse(sheet_command(), options, {"SHELF"}, arguments);
    if (!given) return done;
    if (!given->count("to"))
        throw Error(Trouble::usage, "sheet needs --to FILE.html. See `undershelf sheet --help`.");
    SheetOptions asked;
    asked.to = (*given)["to"].as<std::string>();
    asked.group = group_by_from((*given)["group"].as<std::string>());
    sheet_form_of(asked.to);
    const Shelf shelf((*given)[":SHELF"].as<std::string>());
    auto chosen = chosen_from(*given, shelf);
    if (!tell_of_looking(shelf, chosen)) return interrupted;
    asked.selection = std::move(chosen.selection);
    if (shelf.count(asked.selection) == 0) tell_why_nothing_fits(shelf, *given);
    const auto source = open_source_of(shelf, (*given)["source"].as<std::string>());
    SheetResult result;
    {
        ProgressLine progress;
        result = write_sheet(shelf, *source, asked, progress);
    }
    for (const auto& file : result.files) print("{}\n", without_controls(file));
    print("{}, {}{}\n", counted(result.shown, "file", "files"), human_size(result.bytes),
          result.cards ? fmt::format("; {} cannot be drawn, and say why", grouped(result.cards)) : "");
    if (result.interrupted) {
        note("undershelf: interrupted; the page under way is not written.\n");
        return interrupted;
    }
    if (sheet_form_of(asked.to) == SheetForm::html && result.shown)
        print(
            "next: open it, or send it to the customer; what comes back: undershelf mark {} --ids-from "
            "TICKS.txt\n",
            command_line({shelf.path()}));
    return result.shown ? done : fell_short;
}

}  // namespace

Command sheet_command() {
    Command out{"sheet", "SHELF [selection] --to FILE.html", "a page of previews to look through and tick",
                run};
    out.keeps_progress = true;
    out.selects = true;
    return out;
}

}  // namespace undershelf::cli
