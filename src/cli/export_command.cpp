#include <fmt/format.h>

#include "cli/command.hpp"
#include "cli/output.hpp"
#include "cli/progress_line.hpp"
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

int run(const std::vector<std::string>& arguments) {
    po::options_description options("Options");
    options.add_options()("to", po::value<std::string>()->required(),
                          "the folder to export to, on another drive")(
        "all", "everything that has content, whatever its grade")(
        "links", "make links of links whose target is exported too; without it all of them are text files")(
        "tree", po::value<std::string>()->default_value("keep"), "keep the folders, or flat")(
        "source", po::value<std::string>()->default_value(""), "where the source is now, if it moved");
    add_selection(options);
    const auto given = parse(export_command(), options, {"SHELF"}, arguments);
    if (!given) return done;
    ExportOptions job;
    job.to = (*given)["to"].as<std::string>();
    job.selection = selection_from(*given);
    if (given->count("all")) job.selection.no_helpers = false;
    const auto tree = (*given)["tree"].as<std::string>();
    if (tree != "keep" && tree != "flat")
        throw Error(Trouble::usage, fmt::format("--tree takes keep or flat, not `{}`.", tree));
    job.flat = tree == "flat";
    job.links = given->count("links");
    if (job.selection.selects_all() && !given->count("all")) {
        throw Error(
            Trouble::usage,
            "Say what to export: a selection such as --lost --grade likely+, or --all for everything.");
    }
    const Shelf shelf((*given)[":SHELF"].as<std::string>());
    const auto source = open_source_of(shelf, (*given)["source"].as<std::string>());
    ExportResult result;
    {
        ProgressLine progress(true);
        result = export_entries(shelf, *source, job, progress);
    }
    print("exported {}: {} whole, {} partial, {} skipped, {} failed; {} in {}\n",
          counted(result.whole + result.partial, "file", "files"), grouped(result.whole),
          grouped(result.partial), grouped(result.skipped), grouped(result.failed), human_size(result.bytes),
          job.to);
    if (result.resumed)
        print("{} had been exported before the interruption.\n",
              counted(result.resumed, "of them", "of them"));
    if (result.links) tell_of_links(result, job);
    if (result.interrupted) {
        note("undershelf: interrupted. What is finished is kept; the same command goes on from there.\n");
        return interrupted;
    }
    if (result.partial + result.skipped + result.failed == 0) return done;
    note("undershelf: not everything is whole; {}/exported.jsonl says for every file what and why.\n",
         job.to);
    return fell_short;
}

}  // namespace

Command export_command() {
    return {"export", "SHELF --to DIR [selection]",
            "write selected files to another drive, as a bag with checksums", run, true};
}

}  // namespace undershelf::cli
