#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "answers/planner.hpp"
#include "answers/results_json.hpp"
#include "cli/command.hpp"
#include "cli/output.hpp"
#include "cli/progress_line.hpp"
#include "cli/table.hpp"
#include "export/export.hpp"
#include "scan/source_identity.hpp"

namespace undershelf::cli {

namespace {

/// Links that are text files are so for a reason.
void tell_of_links(const ExportResult& result, const ExportOptions& job) {
    const auto texts = result.links - result.made_links;
    const auto as_text =
        fmt::format("{} that say where they lead", counted(texts, "text file", "text files"));
    if (!job.links) {
        print("Links among them: {}; --links makes links of those whose target is exported too.\n", as_text);
        return;
    }
    print("Links among them: {}", counted(result.made_links, "made a link", "made links"));
    if (texts) print(", {}: their targets are not in this export, or the drive holds no links", as_text);
    print(".\n");
}

ExportOptions options_from(const po::variables_map& given) {
    ExportOptions job;
    job.to = given["to"].as<std::string>();
    job.selection = selection_from(given);
    const bool all = given.count("all");
    if (all) job.selection.no_helpers = false;
    const auto tree = given["tree"].as<std::string>();
    if (tree != "keep" && tree != "flat")
        throw Error(Trouble::usage, fmt::format("--tree takes keep or flat, not `{}`.", tree));
    job.flat = tree == "flat";
    job.links = given.count("links");
    if (job.selection.selects_all() && !all) {
        throw Error(
            Trouble::usage,
            "Say what to export: a selection such as --lost --grade likely+, or --all for everything.");
    }
    job.selection.rated_only = !all && !job.selection.unrated;
    return job;
}

/// How many are left out for want of a rating.
std::uint64_t count_unrated(const Shelf& shelf, const Selection& selection) {
    if (!selection.rated_only || !shelf.may_have_unrated()) return 0;
    auto with = selection;
    with.rated_only = false;
    return shelf.count(with) - shelf.count(selection);
}

void print_result(const ExportResult& result, const ExportOptions& job) {
    print("exported {}: {} whole, {} partial, {} skipped, {} failed; {} in {}\n",
          counted(result.whole + result.partial, "file", "files"), grouped(result.whole),
          grouped(result.partial), grouped(result.skipped), grouped(result.failed), human_size(result.bytes),
          job.to);
    if (result.resumed)
        print("{} had been exported before the interruption.\n",
              counted(result.resumed, "of them", "of them"));
    if (result.links) tell_of_links(result, job);
    if (result.unrated)
        print("{} left out, as {} not rated yet or not copied yet; --all or their numbers export them.\n",
              counted(result.unrated, "file was", "files were"), result.unrated == 1 ? "it is" : "they are");
}

void tell_of_nothing(const Shelf& shelf, const po::variables_map& given, std::uint64_t unrated) {
    if (!unrated) {
        tell_why_nothing_fits(shelf, given);
        return;
    }
    note("{} not rated yet, or not copied yet; --all or a number exports it all the same.\n",
         counted(unrated, "entry fits, and is", "entries fit, and are"));
}

int run(const std::vector<std::string>& arguments) {
    po::options_description options("Options");
    options.add_options()("to", value("DIR")->required(), "the folder to export to, on another drive")(
        "all", "everything that has content, whatever its grade")(
        "links", "make links of links whose target is exported too; without it all of them are text files")(
        "tree", value("FORM", "keep"), "keep the folders, or flat")("source", value("SOURCE", ""),
                                                                    "where the source is now, if it moved");
    add_script_options(options);
    const auto given = parse(export_command(), options, {"SHELF"}, arguments);
    if (!given) return done;
    const bool json = wants_json(*given);
    auto job = options_from(*given);
    const Shelf shelf((*given)[":SHELF"].as<std::string>());
    const auto chosen = choose_from(job.selection, *given, shelf);
    if (!tell_of_looking(shelf, chosen)) return interrupted;
    job.selection = chosen.selection;
    const auto unrated = count_unrated(shelf, job.selection);
    const bool nothing = shelf.count(job.selection) == 0;
    if (nothing) tell_of_nothing(shelf, *given, unrated);
    // Whoever asks for everything gets a bag with all there is, if that is nothing.
    if (nothing && !given->count("all")) return fell_short;
    const auto source = open_source_of(shelf, (*given)["source"].as<std::string>());
    ExportResult result;
    {
        ProgressLine progress(true, progress_form(*given));
        result = export_entries(shelf, *source, job, progress);
    }
    result.unrated = unrated;
    const auto next = plan(facts_after(shelf, job, result));
    if (json) {
        print_json(export_json(shelf, job, result, next));
    } else {
        print_result(result, job);
        if (!result.interrupted) print_points(Terminal(), "WHAT NEXT", next.next);
    }
    flush_out();
    if (!result.not_noted.empty())
        note("undershelf: the shelf does not know of this export: {}\n", result.not_noted);
    if (result.interrupted) {
        note("undershelf: interrupted. What is finished is kept; the same command goes on from there.\n");
        return interrupted;
    }
    if (nothing) return fell_short;
    if (result.partial + result.skipped + result.failed == 0) return done;
    note("undershelf: not everything is whole; {}/exported.jsonl says for every file what and why.\n",
         job.to);
    return status_for_scripts(fell_short, *given);
}

}  // namespace

Command export_command() {
    Command out{"export", "SHELF --to DIR [selection]",
                "write selected files to another drive, as a bag with checksums", run, true};
    out.selects = true;
    return out;
}

}  // namespace undershelf::cli
