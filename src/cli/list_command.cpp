#include <fmt/format.h>

#include "base/saturating.hpp"
#include "cli/columns.hpp"
#include "cli/command.hpp"
#include "cli/output.hpp"

namespace undershelf::cli {

namespace {

void list_lines(const Shelf& shelf, const Selection& selection, const std::vector<SortKey>& sort,
                const Terminal& terminal, bool json) {
    std::string out;
    std::size_t limit = 0;  // the first line at once, the others in blocks
    if (!json) out = csv_heading() + "\n";
    shelf.for_each(selection, sort, [&](const ShelfEntry& e) {
        if (json) {
            append_json(out, e);
        } else {
            append_csv(out, e, terminal.interactive());
        }
        if (out.size() >= limit) {
            write_out(out);
            out.clear();
        }
        limit = 64 << 10;
        return true;
    });
    write_out(out);
}

int list_table(const Shelf& shelf, const Selection& selection, const std::vector<SortKey>& sort,
               const Terminal& terminal, std::vector<Column> columns) {
    TableWriter table(terminal, std::move(columns));
    std::uint64_t entries = 0, bytes = 0;
    shelf.for_each(selection, sort, [&](const ShelfEntry& e) {
        if (entries++ == 0) table.heading();
        table.row(e);
        if (entries == 1) flush_out();
        bytes = saturating_add(bytes, e.size);
        return true;
    });
    flush_out();
    if (entries == 0) {
        note("No entry fits. `undershelf summary {}` shows what is there.\n", shelf.path());
    } else {
        note("{}, {}\n", counted(entries, "entry", "entries"), human_size(bytes));
    }
    return done;
}

int run(const std::vector<std::string>& arguments) {
    po::options_description options("Options");
    options.add_options()("format", po::value<std::string>()->default_value("table"), "table, csv or jsonl")(
        "sort", po::value<std::vector<std::string>>(), "columns to sort by, - for descending: kind,-size")(
        "columns", po::value<std::vector<std::string>>(), "columns of the table, in order");
    options.add(color_option()).add(selection_options());
    const auto given = parse(list_command(), options, {"SHELF"}, arguments);
    if (!given) return done;
    const auto format = (*given)["format"].as<std::string>();
    if (format != "table" && format != "csv" && format != "jsonl")
        throw Error(Trouble::usage, fmt::format("--format takes table, csv or jsonl, not `{}`.", format));
    const auto selection = selection_from(*given);
    const auto sort = sort_from(*given);
    const auto terminal = terminal_from(*given);
    const auto columns = given->count("columns")
                             ? columns_from(split_list((*given)["columns"].as<std::vector<std::string>>()))
                             : fitting(columns_from(default_columns()), terminal.width());
    const Shelf shelf((*given)[":SHELF"].as<std::string>());
    if (format == "table") return list_table(shelf, selection, sort, terminal, columns);
    list_lines(shelf, selection, sort, terminal, format == "jsonl");
    return done;
}

}  // namespace

Command list_command() {
    return {"list", "SHELF [selection]", "entries as table, csv or jsonl", run};
}

}  // namespace undershelf::cli
