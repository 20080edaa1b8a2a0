#include <fmt/format.h>

#include <algorithm>

#include "answers/id_list.hpp"
#include "base/saturating.hpp"
#include "cli/columns.hpp"
#include "cli/command.hpp"
#include "cli/group_table.hpp"
#include "cli/output.hpp"

namespace undershelf::cli {

namespace {

/// What is listed, and how.
struct Listing {
    std::string format;  ///< table, csv, jsonl or ids
    std::vector<SortKey> sort;
    std::vector<std::string> columns;  ///< as they were asked for; empty for the usual ones
    std::optional<GroupBy> group;
    std::optional<unsigned> depth;

    bool is_table() const { return format == "table"; }
};

Listing listing_from(const po::variables_map& given) {
    Listing out;
    out.format = given["format"].as<std::string>();
    const std::vector<std::string> known{"table", "csv", "jsonl", "ids"};
    if (std::find(known.begin(), known.end(), out.format) == known.end())
        throw Error(Trouble::usage,
                    fmt::format("--format takes table, csv, jsonl or ids, not `{}`.", out.format));
    if (given.count("columns")) out.columns = split_list(given["columns"].as<std::vector<std::string>>());
    if (given.count("group")) {
        out.group = group_by_from(given["group"].as<std::string>());
        if (out.format == "ids")
            throw Error(Trouble::usage, "Groups have no numbers; --format ids lists entries.");
        if (!out.columns.empty() || given.count("sort"))
            throw Error(Trouble::usage,
                        "Groups have their own columns and order; leave --columns and --sort out.");
    }
    out.sort = sort_from(given);
    out.depth = depth_from(given);
    if (out.depth && out.group != GroupBy::folder)
        throw Error(Trouble::usage, "--depth goes with --group folder.");
    return out;
}

/// False when nothing fits.
bool list_lines(const Shelf& shelf, const Selection& selection, const Listing& listing, const Fields& fields,
                bool on_terminal) {
    const bool json = listing.format == "jsonl", ids = listing.format == "ids";
    std::string out;
    std::size_t limit = 0;  // the first line at once, the others in blocks
    bool any = false;
    if (!json) out = (ids ? id_list_heading(shelf) : csv_heading(fields)) + "\n";
    shelf.for_each(
        selection, listing.sort,
        [&](const ShelfEntry& e) {
            // The number of a folder would be taken for all that is in it.
            if (ids && e.is_dir) return true;
            any = true;
            if (json) {
                append_json(out, e, fields);
            } else {
                append_csv(out, e, fields, on_terminal);
            }
            if (out.size() >= limit) {
                write_out(out);
                out.clear();
            }
            limit = 64 << 10;
            return true;
        },
        needed_for(listing.columns));
    write_out(out);
    flush_out();
    return any;
}

/// False when nothing fits.
bool list_table(const Shelf& shelf, const Selection& selection, const Listing& listing,
                const Terminal& terminal, std::vector<Column> columns) {
    TableWriter table(terminal, std::move(columns));
    std::uint64_t entries = 0, bytes = 0;
    shelf.for_each(
        selection, listing.sort,
        [&](const ShelfEntry& e) {
            table.row(e);
            if (++entries == 1) flush_out();
            bytes = saturating_add(bytes, e.size);
            return true;
        },
        needed_for(listing.columns));
    table.finish();
    flush_out();
    if (entries) note("{}, {}\n", counted(entries, "entry", "entries"), human_size(bytes));
    return entries > 0;
}

/// False when nothing fits.
bool list_entries(const Shelf& shelf, const Selection& selection, const Listing& listing,
                  const Terminal& terminal) {
    const auto& asked = listing.columns;
    if (!listing.is_table()) {
        const auto fields = listing.format == "ids" ? fields_from({"id"})
                            : asked.empty()         ? all_fields(listing.format == "jsonl")
                                                    : fields_from(asked);
        return list_lines(shelf, selection, listing, fields, terminal.interactive());
    }
    return list_table(shelf, selection, listing, terminal,
                      asked.empty() ? fitting(columns_from(default_columns(), shelf), terminal.width())
                                    : columns_from(asked, shelf));
}

/// Names of columns are looked at before anything is opened.
void check_columns(const Listing& listing) {
    if (listing.columns.empty()) return;
    if (listing.is_table())
        check_column_names(listing.columns);
    else
        fields_from(listing.columns);
}

/// Says why a list is empty.
void tell_of_nothing(const Shelf& shelf, const Selection& selection, const po::variables_map& given) {
    auto without = selection;
    without.among.reset();
    if (!selection.containing.empty() && shelf.count(without))
        note("No checked file that fits has these words.\n");
    else
        tell_why_nothing_fits(shelf, given);
}

int run(const std::vector<std::string>& arguments) {
    po::options_description options("Options");
    options.add_options()("format", value("FORMAT", "table"),
                          "table, csv, jsonl, or ids: numbers for --ids-from")(
        "sort", values("COLUMNS"), "columns to sort by, - for descending: kind,-size")(
        "columns", values("COLUMNS"),
        "columns of the table, or fields of csv and jsonl, in order: name,size")(
        "group", value("BY"),
        "files, bytes and grades for each kind, ext, format, folder, volume, origin, grade, year or month, "
        "and "
        "the selection that opens it")(
        "depth", value("NUMBER"), "with --group folder: deeper folders count with the one that is so deep")(
        "source", value("SOURCE", ""), "where the source is now, if it moved");
    options.add(color_option());
    const auto given = parse(list_command(), options, {"SHELF"}, arguments);
    if (!given) return done;
    const auto listing = listing_from(*given);
    check_columns(listing);
    auto selection = selection_from(*given);
    // Programs get all, with a field that says so.
    if ((listing.format == "csv" || listing.format == "jsonl") && !listing.group)
        selection.no_helpers = false;
    const auto terminal = terminal_from(*given);
    const Shelf shelf((*given)[":SHELF"].as<std::string>());
    const auto chosen = choose_from(std::move(selection), *given, shelf);
    const bool any = listing.group ? list_groups(shelf, chosen.selection, *listing.group, listing.depth,
                                                 listing.format, terminal, *given)
                                   : list_entries(shelf, chosen.selection, listing, terminal);
    if (!any)
        tell_of_nothing(shelf, chosen.selection, *given);
    else if (listing.is_table())
        tell_what_is_left_out(shelf, chosen.selection);
    return tell_of_looking(shelf, chosen) ? done : interrupted;
}

}  // namespace

Command list_command() {
    Command out{"list", "SHELF [selection]", "entries as table, csv or jsonl, one by one or in groups", run};
    out.selects = true;
    return out;
}

}  // namespace undershelf::cli
