#include <fmt/format.h>

#include <memory>

#include "answers/steps.hpp"
#include "base/printable.hpp"
#include "cli/command.hpp"
#include "cli/output.hpp"
#include "cli/under_way.hpp"
#include "report/report.hpp"
#include "scan/source_identity.hpp"

namespace undershelf::cli {

namespace {

std::string said(const po::variables_map& given, const char* option) {
    return given.count(option) ? given[option].as<std::string>() : std::string();
}

ReportOptions report_options_from(const po::variables_map& given) {
    ReportOptions out;
    if (!given.count("to"))
        throw Error(Trouble::usage, "report needs --to DIR. See `undershelf report --help`.");
    out.to = said(given, "to");
    if (given.count("export")) out.bags = given["export"].as<std::vector<std::string>>();
    out.wanted = said(given, "wanted");
    out.title = said(given, "title");
    out.case_name = said(given, "case");
    out.by = said(given, "by");
    const auto now = now_utc();
    out.made = iso8601({now.ticks / Timestamp::per_second * Timestamp::per_second, 0});
    out.version = program_version;
    out.figures_only = given.count("figures-only") > 0;
    return out;
}

int run(const std::vector<std::string>& arguments) {
    po::options_description options("Options");
    options.add_options()("to", value("DIR"),
                          "the folder for report.html, its figures, files.csv and report.json")(
        "export", values("BAG"), "a folder that was exported to: what was handed over, verified")(
        "wanted", value("FILE"), "what was asked for: a name, a part of one, or a pattern on each line")(
        "title", value("TEXT"), "the heading of the page")(
        "case", value("TEXT"), "the number or name of the case")("by", value("TEXT"), "who made it")(
        "figures-only", "the figures alone")("source", value("SOURCE", ""),
                                             "where the source is now, if it moved");
    const auto given = parse(report_command(), options, {"SHELF"}, arguments);
    if (!given) return done;
    auto asked = report_options_from(*given);
    const Shelf shelf((*given)[":SHELF"].as<std::string>());
    auto selection = selection_from(*given);
    // Without a selection it is about what is lost.
    if (selection.selects_all()) selection.lost = true;
    auto chosen = choose_from(std::move(selection), *given, shelf);
    if (!tell_of_looking(shelf, chosen)) return interrupted;
    asked.selection = std::move(chosen.selection);
    std::unique_ptr<Source> source;
    try {
        source = open_source_of(shelf, said(*given, "source"));
    } catch (const Error& e) {
        if (!said(*given, "source").empty()) throw;
        note("undershelf: no previews: {}\n", without_controls(e.what()));
    }
    ReportResult result;
    {
        ProgressLine progress;
        result = write_report(shelf, source.get(), asked, progress);
    }
    if (result.interrupted) {
        note("undershelf: interrupted; no report is written.\n");
        return interrupted;
    }
    for (const auto& file : result.files) print("{}\n", without_controls(file));
    bool fine = true;
    for (const auto& bag : result.facts.bags) {
        if (bag.ends_well()) continue;
        fine = false;
        flush_out();
        note("undershelf: {} {}; the first page says so: undershelf verify {}\n",
             without_controls(bag.folder),
             bag.verification.unfinished_command ? "is not finished" : "does not verify",
             command_line({bag.folder}));
    }
    if (!asked.figures_only)
        print("next: read {} before anybody else does.\n", without_controls(result.files.back()));
    return fine ? done : fell_short;
}

}  // namespace

Command report_command() {
    Command out{"report", "SHELF [selection] --to DIR",
                "a page with figures for the customer and a colleague", run};
    out.keeps_progress = true;
    out.selects = true;
    return out;
}

}  // namespace undershelf::cli
