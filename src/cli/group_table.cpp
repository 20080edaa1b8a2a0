#include "cli/group_table.hpp"

#include <fmt/format.h>

#include "answers/counts.hpp"
#include "answers/steps.hpp"
#include "base/printable.hpp"
#include "base/saturating.hpp"
#include "cli/column_writer.hpp"
#include "cli/output.hpp"
#include "volume/words.hpp"

namespace undershelf::cli {

namespace {

std::string upper(std::string_view word) {
    std::string out(word);
    for (auto& c : out) c = static_cast<char>(std::toupper(static_cast<unsigned char>(c)));
    return out;
}

/// A zero is a dash: what is there stands out.
std::string number(std::uint64_t n) {
    return n ? grouped(n) : "-";
}

class GroupTable {
  public:
    GroupTable(const Terminal& terminal, GroupBy by, bool some_unrated)
        : some_unrated_(some_unrated),
          narrow_(terminal.width() < needed_for_grades),
          writer_(terminal, heads(by, some_unrated, narrow_)) {}

    void row(const Group& g) {
        const auto& grades = g.counts.by_grade;
        std::vector<ColumnWriter::Cell> cells{
            {{}, g.name, Style::bold, {}}, plain(grouped(g.counts.files)), plain(human_size(g.counts.bytes))};
        if (narrow_)
            cells.push_back(plain(number(grades[static_cast<std::size_t>(Grade::likely)] +
                                         grades[static_cast<std::size_t>(Grade::verified)])));
        else
            for (const auto grade : shown_grades)
                cells.push_back(plain(number(grades[static_cast<std::size_t>(grade)])));
        if (some_unrated_) cells.push_back(plain(number(grades[0])));
        cells.push_back(plain(command_line(g.opens)));
        writer_.row(cells);
    }
    void finish() { writer_.finish(); }

  private:
    /// Columns of a terminal on which there is room for all grades.
    static constexpr int needed_for_grades = 110;

    static ColumnWriter::Cell plain(std::string text) { return {{}, std::move(text), Style::plain, {}}; }

    static std::vector<ColumnWriter::Head> heads(GroupBy by, bool some_unrated, bool narrow) {
        std::vector<ColumnWriter::Head> out{{upper(word(by))}, {"FILES", 0, true}, {"SIZE", 0, true}};
        if (narrow)
            out.push_back({"LIKELY+", 0, true});
        else
            for (const auto grade : shown_grades) out.push_back({upper(word(grade)), 0, true});
        if (some_unrated) out.push_back({"NOT RATED", 0, true});
        out.push_back({"OPENED BY"});
        return out;
    }

    bool some_unrated_, narrow_;
    ColumnWriter writer_;
};

void print_lines(const std::vector<Group>& groups, GroupBy by, bool json) {
    std::string out;
    constexpr std::size_t block = 64 << 10;
    if (!json) append_group_csv_heading(out);
    for (const auto& g : groups) {
        json ? append_group_json(out, g, by) : append_group_csv(out, g, by);
        if (out.size() < block) continue;
        write_out(out);
        out.clear();
    }
    write_out(out);
    flush_out();
}

/// What was said again, with one group's options after it.
std::string opening_command(const Shelf& shelf, const po::variables_map& given, const Group& group) {
    std::vector<std::string> argv{"undershelf", "list", shelf.path()};
    for (const auto& [option, values] : said_in(given, selection_options())) {
        argv.push_back("--" + option);
        for (const auto& v : values) {
            if (argv.back() != "--" + option) argv.push_back("--" + option);
            argv.push_back(v);
        }
    }
    argv.insert(argv.end(), group.opens.begin(), group.opens.end());
    return command_line(argv);
}

}  // namespace

bool list_groups(const Shelf& shelf, const Selection& selection, GroupBy by, std::optional<unsigned> depth,
                 const std::string& format, const Terminal& terminal, const po::variables_map& given) {
    const auto groups = groups_to_show(shelf, selection, by, depth);
    if (format != "table") {
        print_lines(groups, by, format == "jsonl");
        return !groups.empty();
    }
    if (groups.empty()) return false;
    const bool some_unrated =
        std::any_of(groups.begin(), groups.end(), [](const Group& g) { return g.counts.by_grade[0] > 0; });
    GroupTable table(terminal, by, some_unrated);
    std::uint64_t files = 0, bytes = 0;
    for (const auto& g : groups) {
        table.row(g);
        files += g.counts.files;
        bytes = saturating_add(bytes, g.counts.bytes);
    }
    table.finish();
    flush_out();
    note("{}, {}, {}\n", counted(groups.size(), "group", "groups"), counted(files, "file", "files"),
         human_size(bytes));
    note("to open one, as the first: {}\n", without_controls(opening_command(shelf, given, groups.front())));
    return true;
}

}  // namespace undershelf::cli
