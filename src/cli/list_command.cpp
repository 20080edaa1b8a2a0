#include <fmt/format.h>

#include "base/saturating.hpp"
#include "cli/columns.hpp"
#include "cli/command.hpp"
#include "cli/output.hpp"
#include "cli/progress_line.hpp"
#include "scan/containing.hpp"
#include "scan/source_identity.hpp"

namespace undershelf::cli {

namespace {

/// What of a selection is listed: where words are looked for, entries that hold them.
struct Wanted {
    Selection selection;
    std::vector<SortKey> sort;
    std::optional<Containing> containing = {};

    template <class Visit>
    void for_each(const Shelf& shelf, const Visit& visit) const {
        shelf.for_each(selection, sort, [&](const ShelfEntry& e) {
            return containing && !containing->entries.contains(e.id) ? true : visit(e);
        });
    }
};

Containing look_for(const std::string& words, const std::string& source, const Shelf& shelf,
                    const Selection& selection) {
    const auto opened = open_source_of(shelf, source);
    ProgressLine progress;
    return find_containing(*opened, shelf, selection, words, progress);
}

/// Files that nobody looked into may hold the words as well.
int tell_of_search(const Shelf& shelf, const Containing& containing) {
    if (containing.interrupted) {
        note("undershelf: interrupted after {}.\n", counted(containing.files, "file", "files"));
        return interrupted;
    }
    const auto tell = [&](std::uint64_t files, const char* which, const char* more) {
        if (files)
            note("{} not looked into, as they are not checked yet: undershelf check {}{}\n",
                 counted(files, fmt::format("{} file was", which).c_str(),
                         fmt::format("{} files were", which).c_str()),
                 shelf.path(), more);
    };
    tell(containing.unchecked_lost, "lost", "");
    tell(containing.unchecked_live, "live", " --origin live");
    return done;
}

/// False when nothing fits.
bool list_lines(const Shelf& shelf, const Wanted& wanted, const Terminal& terminal, const Fields& fields,
                bool json) {
    std::string out;
    std::size_t limit = 0;  // the first line at once, the others in blocks
    bool any = false;
    if (!json) out = csv_heading(fields) + "\n";
    wanted.for_each(shelf, [&](const ShelfEntry& e) {
        any = true;
        if (json) {
            append_json(out, e, fields);
        } else {
            append_csv(out, e, fields, terminal.interactive());
        }
        if (out.size() >= limit) {
            write_out(out);
            out.clear();
        }
        limit = 64 << 10;
        return true;
    });
    write_out(out);
    flush_out();
    return any;
}

/// Says why a list is empty.
void tell_of_nothing(const Shelf& shelf, const Wanted& wanted, const po::variables_map& given) {
    if (wanted.containing && shelf.count(wanted.selection))
        note("No checked file that fits has these words.\n");
    else
        tell_why_nothing_fits(shelf, given);
}

/// False when nothing fits.
bool list_table(const Shelf& shelf, const Wanted& wanted, const Terminal& terminal,
                std::vector<Column> columns) {
    TableWriter table(terminal, std::move(columns));
    std::uint64_t entries = 0, bytes = 0;
    wanted.for_each(shelf, [&](const ShelfEntry& e) {
        if (entries++ == 0) table.heading();
        table.row(e);
        if (entries == 1) flush_out();
        bytes = saturating_add(bytes, e.size);
        return true;
    });
    flush_out();
    if (entries) note("{}, {}\n", counted(entries, "entry", "entries"), human_size(bytes));
    return entries > 0;
}

int run(const std::vector<std::string>& arguments) {
    po::options_description options("Options");
    options.add_options()("format", po::value<std::string>()->default_value("table"), "table, csv or jsonl")(
        "sort", po::value<std::vector<std::string>>(), "columns to sort by, - for descending: kind,-size")(
        "columns", po::value<std::vector<std::string>>(),
        "columns of the table, or fields of csv and jsonl, in order: name,size")(
        "containing", po::value<std::string>(),
        "checked files in whose text or title all of these words are: 'lantern maker'")(
        "source", po::value<std::string>()->default_value(""), "where the source is now, if it moved");
    options.add(color_option());
    add_selection(options);
    const auto given = parse(list_command(), options, {"SHELF"}, arguments);
    if (!given) return done;
    const auto format = (*given)["format"].as<std::string>();
    if (format != "table" && format != "csv" && format != "jsonl")
        throw Error(Trouble::usage, fmt::format("--format takes table, csv or jsonl, not `{}`.", format));
    Wanted wanted{selection_from(*given), sort_from(*given)};
    if (format != "table")
        wanted.selection.no_helpers = false;  // programs get all, with a field that says so
    const auto terminal = terminal_from(*given);
    const auto chosen = given->count("columns")
                            ? split_list((*given)["columns"].as<std::vector<std::string>>())
                            : std::vector<std::string>();
    const bool table = format == "table", json = format == "jsonl";
    const auto fields = table ? Fields() : chosen.empty() ? all_fields(json) : fields_from(chosen);
    const Shelf shelf((*given)[":SHELF"].as<std::string>());
    const auto columns = !table           ? std::vector<Column>()
                         : chosen.empty() ? fitting(columns_from(default_columns(), shelf), terminal.width())
                                          : columns_from(chosen, shelf);
    if (given->count("containing"))
        wanted.containing = look_for((*given)["containing"].as<std::string>(),
                                     (*given)["source"].as<std::string>(), shelf, wanted.selection);
    const bool any = table ? list_table(shelf, wanted, terminal, columns)
                           : list_lines(shelf, wanted, terminal, fields, json);
    if (!any) tell_of_nothing(shelf, wanted, *given);
    return wanted.containing ? tell_of_search(shelf, *wanted.containing) : done;
}

}  // namespace

Command list_command() {
    return {"list", "SHELF [selection]", "entries as table, csv or jsonl", run};
}

}  // namespace undershelf::cli
