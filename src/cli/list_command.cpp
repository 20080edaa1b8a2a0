#include <fmt/format.h>

#include "cli/columns.hpp"
#include "cli/command.hpp"

namespace undershelf::cli {

namespace {

/// Writes what has gathered once it is worth a call.
void flush_when_long(std::string& out, std::size_t limit) {
    if (out.size() < limit) return;
    std::fwrite(out.data(), 1, out.size(), stdout);
    out.clear();
}

void list_lines(const Shelf& shelf, const Selection& selection, const std::vector<SortKey>& sort, bool json) {
    std::string out;
    std::size_t limit = 0;  // the first line at once, the others in blocks
    if (!json) out = csv_heading() + "\n";
    shelf.for_each(selection, sort, [&](const ShelfEntry& e) {
        if (json) {
            append_json(out, e);
        } else {
            append_csv(out, e);
        }
        flush_when_long(out, limit);
        limit = 64 << 10;
        return !stop_flag().load();
    });
    flush_when_long(out, 0);
}

int list_table(const Shelf& shelf, const Selection& selection, const std::vector<SortKey>& sort,
               const Terminal& terminal, std::vector<Column> columns) {
    TableWriter table(terminal, std::move(columns));
    std::uint64_t entries = 0, bytes = 0;
    shelf.for_each(selection, sort, [&](const ShelfEntry& e) {
        if (entries++ == 0) table.heading();
        table.row(e);
        if (entries == 1) std::fflush(stdout);
        bytes += e.size;
        return !stop_flag().load();
    });
    std::fflush(stdout);
    if (entries == 0) {
        fmt::print(stderr, "No entry fits. `undershelf summary {}` shows what is there.\n", shelf.path());
    } else {
        fmt::print(stderr, "{}, {}\n", counted(entries, "entry", "entries"), human_size(bytes));
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
    const auto columns =
        columns_from(given->count("columns") ? split_list((*given)["columns"].as<std::vector<std::string>>())
                                             : default_columns());
    const auto terminal = terminal_from(*given);
    const Shelf shelf((*given)[":SHELF"].as<std::string>());
    if (format == "table") return list_table(shelf, selection, sort, terminal, columns);
    list_lines(shelf, selection, sort, format == "jsonl");
    return done;
}

}  // namespace

Command list_command() {
    return {"list", "SHELF [selection]", "entries as table, csv or jsonl", run};
}

}  // namespace undershelf::cli
