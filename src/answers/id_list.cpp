#include "answers/id_list.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <charconv>
#include <filesystem>
#include <fstream>
#include <iostream>
#include <nlohmann/json.hpp>
#include <optional>

#include "base/amounts.hpp"
#include "base/error.hpp"
#include "base/json_text.hpp"

namespace undershelf {

namespace {

constexpr std::string_view heading = "# undershelf shelf ";
/// Ours have paths and names in them.
constexpr std::size_t longest_line = 1 << 20;
/// Nobody reads more than a few.
constexpr std::size_t most_told = 3;

std::optional<std::uint64_t> number_in(std::string_view text) {
    std::uint64_t out = 0;
    const auto [end, ec] = std::from_chars(text.data(), text.data() + text.size(), out);
    if (ec != std::errc{} || end != text.data() + text.size() || out > INT64_MAX) return std::nullopt;
    return out;
}

/// `10-20`, or `25`.
std::optional<ByteRange> range_in(std::string_view text) {
    const auto dash = text.find('-');
    const auto first = number_in(text.substr(0, dash));
    const auto last = dash == text.npos ? first : number_in(text.substr(dash + 1));
    if (!first || !last || *first > *last) return std::nullopt;
    return ByteRange{*first, *last - *first + 1};
}

/// The fields of a line of CSV (RFC 4180); ours are never broken over lines.
std::vector<std::string> fields_of(std::string_view line) {
    std::vector<std::string> out(1);
    bool quoted = false;
    for (std::size_t i = 0; i < line.size(); ++i) {
        if (line[i] == '"') {
            if (quoted && i + 1 < line.size() && line[i + 1] == '"')
                out.back() += line[++i];
            else
                quoted = !quoted;
        } else if (line[i] == ',' && !quoted) {
            out.emplace_back();
        } else {
            out.back() += line[i];
        }
    }
    return out;
}

class ListReader {
  public:
    ListReader(std::istream& in, const std::string& file) : in_(in) { out_.file = file; }

    ListedIds read() {
        for (std::string line; std::getline(in_, line);) {
            ++number_;
            if (line.size() > longest_line) wrong("has more than 1 MiB in one line");
            if (number_ == 1 && line.starts_with("\xef\xbb\xbf")) line.erase(0, 3);
            while (!line.empty() && (line.back() == '\r' || line.back() == ' ' || line.back() == '\t'))
                line.pop_back();
            line.erase(0, line.find_first_not_of(" \t"));
            take(line);
        }
        out_.ids = IdSet(std::move(ranges_));
        return std::move(out_);
    }

  private:
    void take(const std::string& line) {
        if (line.starts_with(heading) && out_.shelf.empty()) out_.shelf = line.substr(heading.size(), 16);
        if (line.empty() || line.starts_with('#')) return;
        if (line.starts_with('{')) return take_object(line);
        if (column_) return take_row(line);
        if (first_ && line.find_first_not_of("0123456789-, \"") != std::string::npos && take_heading(line))
            return;
        first_ = false;
        add(line);
    }

    bool take_heading(const std::string& line) {
        const auto names = fields_of(line);
        for (std::size_t i = 0; i < names.size(); ++i) {
            if (names[i] == "id") column_ = i;
            if (names[i] == "is_dir") dir_column_ = i;
        }
        return column_.has_value();
    }

    void take_row(const std::string& line) {
        const auto fields = fields_of(line);
        if (*column_ >= fields.size()) wrong("has no field `id`");
        const bool is_dir = dir_column_ && *dir_column_ < fields.size() && fields[*dir_column_] == "true";
        if (!is_dir) add(fields[*column_]);
    }

    void take_object(const std::string& line) {
        first_ = false;
        const auto object = json_in(line);
        if (object.is_discarded() || !object.contains("id") || !object["id"].is_number_unsigned())
            wrong("is no JSON object with a number `id`");
        const auto is_dir = object.find("is_dir");
        if (is_dir == object.end() || *is_dir != true) add(std::to_string(object["id"].get<std::uint64_t>()));
    }

    void add(std::string_view text) {
        const auto range = range_in(text);
        if (!range)
            wrong(fmt::format("says `{}`, which is not the number of an entry",
                              text.substr(0, std::min<std::size_t>(text.size(), 40))));
        ranges_.push_back(*range);
    }

    [[noreturn]] void wrong(const std::string& what) const {
        throw Error(Trouble::usage, fmt::format("Line {} of {} {}. Give one number a line, or a list of "
                                                "`undershelf list` as csv or jsonl.",
                                                number_, out_.file, what));
    }

    std::istream& in_;
    ListedIds out_;
    std::vector<ByteRange> ranges_;
    std::uint64_t number_ = 0;
    bool first_ = true;
    std::optional<std::size_t> column_, dir_column_;  ///< of a CSV's numbers, and of what says a folder
};

}  // namespace

std::string id_list_heading(const Shelf& shelf) {
    return std::string(heading) + shelf.identity();
}

bool add_numbers(IdSet& to, std::string_view text) {
    const auto range = range_in(text);
    if (range) to.add(*range);
    return range.has_value();
}

ListedIds read_id_list(std::istream& in, const std::string& file) {
    return ListReader(in, file).read();
}

ListedIds id_list_from(const std::string& file) {
    if (file == "-") {
        // It can be read once.
        static const auto list = read_id_list(std::cin, "standard input");
        return list;
    }
    std::ifstream in(file);
    std::error_code ec;
    if (!in || std::filesystem::is_directory(file, ec))
        throw Error(Trouble::usage,
                    fmt::format("{} cannot be read. --ids-from takes a file with one number a "
                                "line, or - for standard input.",
                                file));
    return read_id_list(in, file);
}

std::vector<std::string> check_id_list(const Shelf& shelf, const ListedIds& list) {
    if (!list.shelf.empty() && list.shelf != shelf.identity())
        throw Error(
            Trouble::refused,
            fmt::format("{} was made from another shelf: its numbers are not those of {}. Give the shelf "
                        "it was made from.",
                        list.file, shelf.path()));
    const auto missing = shelf.not_entries(list.ids, most_told);
    if (missing.numbers == 0) return {};
    return {fmt::format("{}: {} {} no {} here: {}{}", list.file,
                        counted(missing.numbers, "number", "numbers"), missing.numbers == 1 ? "is" : "are",
                        missing.numbers == 1 ? "entry" : "entries", fmt::join(missing.first, ", "),
                        missing.numbers > missing.first.size() ? ", ..." : ".")};
}

}  // namespace undershelf
