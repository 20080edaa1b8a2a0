#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "answers/counts.hpp"
#include "answers/planner.hpp"
#include "answers/results_json.hpp"
#include "answers/steps.hpp"
#include "base/printable.hpp"
#include "cli/command.hpp"
#include "cli/output.hpp"
#include "cli/progress_line.hpp"
#include "cli/table.hpp"
#include "cli/under_way.hpp"
#include "export/export.hpp"
#include "export/room.hpp"
#include "scan/source_identity.hpp"
#include "volume/words.hpp"

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

bool asks_for_gone(const Selection& selection) {
    return std::any_of(selection.grades.begin(), selection.grades.end(),
                       [](const GradeChoice& g) { return g.grade == Grade::gone; });
}

ExportOptions options_from(const po::variables_map& given) {
    ExportOptions job;
    job.to = given["to"].as<std::vector<std::string>>();
    job.selection = selection_from(given);
    const bool all = given.count("all");
    if (all) job.selection.no_helpers = false;
    const auto tree = given["tree"].as<std::string>();
    const auto known = export_tree_from_word(tree);
    if (!known)
        throw Error(Trouble::usage, fmt::format("--tree takes keep, flat, kind or month, not `{}`.", tree));
    job.tree = *known;
    job.links = given.count("links");
    if (job.selection.selects_all() && !all) {
        throw Error(
            Trouble::usage,
            "Say what to export: a selection such as --lost --grade likely+, or --all for everything.");
    }
    job.selection.rated_only = !all && !job.selection.unrated;
    job.selection.no_gone = !all && !asks_for_gone(job.selection);
    return job;
}

/// How many a selection leaves out by this rule of its.
std::uint64_t count_without(const Shelf& shelf, const Selection& selection, bool Selection::*rule) {
    if (!(selection.*rule)) return 0;
    auto with = selection;
    with.*rule = false;
    return shelf.count(with) - shelf.count(selection);
}

/// `3 verified, 12 likely`.
std::string by_grade(const ExportResult& result) {
    std::vector<std::string> parts;
    for (const auto grade : shown_grades) {
        const auto it = result.by_grade.find(std::string(word(grade)));
        if (it != result.by_grade.end() && it->second)
            parts.push_back(fmt::format("{} {}", grouped(it->second), it->first));
    }
    return fmt::format("{}", fmt::join(parts, ", "));
}

void tell_of_broken(const ExportResult& result) {
    if (!result.broken) return;
    std::vector<std::string> named;
    for (const auto& [place, holds_to] : result.first_broken)
        named.push_back(fmt::format("{} (up to byte {})", without_controls(place), grouped(holds_to)));
    print("{} not hold to {} end, by a check: {}{}\n", counted(result.broken, "of them does", "of them do"),
          result.broken == 1 ? "its" : "their", fmt::format("{}", fmt::join(named, ", ")),
          result.broken > named.size() ? ", ..." : "");
}

/// `/mnt/rescue`, `/mnt/rescue (round 2)`.
std::string in_words(const ExportResult::Part& part) {
    return part.round > 1 && part.added ? fmt::format("{} (round {})", part.folder, part.round) : part.folder;
}

std::string bags_of(const ExportResult& result) {
    std::vector<std::string> out;
    for (const auto& part : result.parts) out.push_back(in_words(part));
    return fmt::format("{}", fmt::join(out, " and "));
}

/// Which bag has what, where there are several.
void tell_of_parts(const ExportResult& result) {
    if (result.parts.size() < 2) return;
    for (const auto& part : result.parts)
        print("{}: {}, {}\n", in_words(part), counted(part.files, "file", "files"), human_size(part.bytes));
}

void tell_of_already(const ExportResult& result, const ExportOptions& job) {
    const auto& of = job.to.size() == 1 ? job.to.front() : std::string("the bags");
    if (result.complete + result.partial + result.skipped + result.failed == 0) {
        print("nothing to add: {} in {} already\n",
              counted(result.already, "selected file is", "selected files are"), of);
    } else {
        print("{} in {} already, from earlier rounds\n",
              counted(result.already, "other selected file is", "other selected files are"), of);
    }
}

/// `a, b, c, ...` of so many.
std::string first_of(const std::vector<std::string>& first, std::uint64_t all) {
    std::vector<std::string> named;
    for (const auto& name : first) named.push_back(without_controls(name));
    return fmt::format("{}{}", fmt::join(named, ", "), all > first.size() ? ", ..." : "");
}

/// What somebody else has done to a bag between two rounds.
void tell_of_strangers(const ExportResult& result) {
    for (const auto& part : result.parts) {
        if (part.unfit)
            note("undershelf: {} of earlier rounds in {} {} missing or changed: {}. All that differs: {}\n",
                 counted(part.unfit, "file", "files"), part.folder, part.unfit == 1 ? "is" : "are",
                 first_of(part.first_unfit, part.unfit), command_line({"undershelf", "verify", part.folder}));
        if (part.foreign)
            note("undershelf: {} in {} {} not from an export: {}. {} kept, and in no list of the bag.\n",
                 counted(part.foreign, "file", "files"), part.folder, part.foreign == 1 ? "is" : "are",
                 first_of(part.first_foreign, part.foreign), part.foreign == 1 ? "It is" : "They are");
    }
}

void print_result(const ExportResult& result, const ExportOptions& job) {
    const auto files = result.complete + result.partial;
    const auto grades = by_grade(result);
    tell_of_parts(result);
    if (result.already && files + result.skipped + result.failed == 0) return tell_of_already(result, job);
    print("exported {}, {}, to {}{}{}\n", counted(files, "file", "files"), human_size(result.bytes),
          bags_of(result), grades.empty() ? "" : ": ", grades);
    if (result.already) tell_of_already(result, job);
    print("{} complete: every byte was read and none is known lost; {} partial, {} skipped, {} failed\n",
          grouped(result.complete), grouped(result.partial), grouped(result.skipped), grouped(result.failed));
    tell_of_broken(result);
    if (result.resumed)
        print("{} had been exported before the interruption.\n",
              counted(result.resumed, "of them", "of them"));
    if (result.links) tell_of_links(result, job);
    if (result.gone)
        print("{} gone and left out; --grade gone exports what is in {} place.\n",
              counted(result.gone, "file is", "files are"), result.gone == 1 ? "its" : "their");
    if (result.unrated)
        print("{} left out, as {} not rated yet or not copied yet; --all or their numbers export them.\n",
              counted(result.unrated, "file was", "files were"), result.unrated == 1 ? "it is" : "they are");
}

/// Files that the destination cannot hold are said before the first byte.
void tell_of_too_large(const ExportEstimate& e, const std::string& to) {
    if (!e.too_large) return;
    std::vector<std::string> named;
    for (const auto& [path, size] : e.first_too_large)
        named.push_back(fmt::format("{} ({})", without_controls(path), human_size(size)));
    note(
        "undershelf: the file system of {} holds no file larger than {}; {} larger: {}{}. Choose another "
        "destination for {}.\n",
        to, human_size(*e.largest), counted(e.too_large, "file is", "files are"), fmt::join(named, ", "),
        e.too_large > named.size() ? ", ..." : "", e.too_large == 1 ? "it" : "them");
}

/// By the rate that the last scan read with; nothing where that is not known.
std::string time_for(const Shelf& shelf, std::uint64_t bytes) {
    const auto scan = shelf.last_scan();
    if (!scan || !scan->sweep_seconds || *scan->sweep_seconds <= 0) return {};
    const auto seconds =
        static_cast<double>(bytes) / static_cast<double>(shelf.source().size) * *scan->sweep_seconds;
    return ", " + about(seconds);
}

int dry_run(const Shelf& shelf, const Source& source, const ExportOptions& job, std::uint64_t unrated,
            std::uint64_t gone) {
    const auto e = estimate(shelf, source, job, Destinations(shelf, job), largest_file_at(job.to));
    ExportResult counted_only;
    counted_only.by_grade = e.by_grade;
    const auto grades = by_grade(counted_only);
    const auto to = fmt::format("{}", fmt::join(job.to, " and "));
    print("would export {}, {}{}, to {}{}{}\n", counted(e.files, "file", "files"), human_size(e.bytes),
          time_for(shelf, e.bytes), to, grades.empty() ? "" : ": ", grades);
    if (e.already)
        print("{} there already, from earlier rounds\n",
              counted(e.already, "other selected file is", "other selected files are"));
    if (e.free) print("{} free there: {}\n", human_size(*e.free), e.fits() ? "enough" : "not enough");
    if (gone)
        print("{} left out, as {} gone\n", counted(gone, "file", "files"), gone == 1 ? "it is" : "they are");
    if (unrated) print("{} left out, not rated or not copied yet\n", counted(unrated, "file", "files"));
    print("Nothing was written.\n");
    flush_out();
    tell_of_too_large(e, to);
    return e.fits() && !e.too_large ? done : fell_short;
}

void tell_of_nothing(const Shelf& shelf, const po::variables_map& given, std::uint64_t unrated,
                     std::uint64_t gone) {
    if (!unrated && !gone) tell_why_nothing_fits(shelf, given);
    if (gone)
        note("{} gone: nothing of {} is left. --grade gone exports what is in {} place.\n",
             counted(gone, "file that fits is", "files that fit are"), gone == 1 ? "it" : "them",
             gone == 1 ? "its" : "their");
    if (unrated)
        note("{} not rated yet, or not copied yet; --all or a number exports it all the same.\n",
             counted(unrated, "entry fits, and is", "entries fit, and are"));
}

int run(const std::vector<std::string>& arguments) {
    po::options_description options("Options");
    options.add_options()(
        "to", values("DIR")->required(),
        "the folder to export to, on another drive; given again: where to go on when that is "
        "full")("all", "everything that has content, whatever its grade")(
        "links", "make links of links whose target is exported too; without it all of them are text files")(
        "tree", value("FORM", "keep"),
        "keep the folders, or flat: none, kind: one a kind, month: one a month of the last change")(
        "dry-run", "write nothing: say how many files, how much, of which grades, and whether there is room")(
        "source", value("SOURCE", ""), "where the source is now, if it moved");
    add_script_options(options);
    const auto given = parse(export_command(), options, {"SHELF"}, arguments);
    if (!given) return done;
    const bool json = wants_json(*given);
    auto job = options_from(*given);
    const Shelf shelf((*given)[":SHELF"].as<std::string>());
    const auto chosen = choose_from(job.selection, *given, shelf);
    if (!tell_of_looking(shelf, chosen)) return interrupted;
    job.selection = chosen.selection;
    const auto unrated =
        shelf.may_have_unrated() ? count_without(shelf, job.selection, &Selection::rated_only) : 0;
    const auto gone = count_without(shelf, job.selection, &Selection::no_gone);
    const bool nothing = shelf.count(job.selection) == 0;
    if (nothing) tell_of_nothing(shelf, *given, unrated, gone);
    // Whoever asks for everything gets a bag with all there is, if that is nothing.
    if (nothing && !given->count("all")) return fell_short;
    const auto source = open_source_of(shelf, (*given)["source"].as<std::string>());
    if (given->count("dry-run")) return dry_run(shelf, *source, job, unrated, gone);
    if (const auto largest = largest_file_at(job.to))
        tell_of_too_large(estimate(shelf, *source, job, Destinations(shelf, job), largest),
                          fmt::format("{}", fmt::join(job.to, " and ")));
    ExportResult result;
    {
        ProgressLine progress(true, progress_form(*given));
        job.command = noted_in(shelf.path());
        result = export_entries(shelf, *source, job, progress);
    }
    result.unrated = unrated;
    result.gone = gone;
    const auto next = plan(facts_after(shelf, job, result));
    if (json) {
        print_json(export_json(shelf, job, result, next));
    } else {
        print_result(result, job);
        if (!result.interrupted) print_points(Terminal(), "WHAT NEXT", next.next);
    }
    flush_out();
    if (!result.not_noted.empty()) {
        under_way().shelf.clear();
        note("undershelf: this export is not remembered in the shelf: {}\n", result.not_noted);
    }
    tell_of_strangers(result);
    if (result.interrupted) {
        note("undershelf: interrupted. What is finished is kept; the same command goes on from there.\n");
        return interrupted;
    }
    if (nothing) return fell_short;
    if (result.no_room)
        note("undershelf: {} no room. Give the same command again, with another --to in addition.\n",
             counted(result.no_room, "file had", "files had"));
    const bool strangers = std::any_of(result.parts.begin(), result.parts.end(),
                                       [](const auto& part) { return part.unfit > 0; });
    const auto short_of = result.partial + result.already_partial + result.skipped + result.failed;
    if (short_of + result.no_room == 0 && !strangers) return done;
    if (short_of)
        note("undershelf: not everything is complete; {}/exported.jsonl says for every file what and why.\n",
             result.parts.back().folder);
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
