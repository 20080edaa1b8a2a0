#include "source/csv_lines.hpp"

#include <fmt/format.h>

#include <charconv>
#include <fstream>

#include "base/error.hpp"

namespace undershelf {

namespace {
std::string_view trimmed(std::string_view text) {
    const auto from = text.find_first_not_of(" \t\r");
    if (from == std::string_view::npos) return {};
    return text.substr(from, text.find_last_not_of(" \t\r") + 1 - from);
}
}  // namespace

std::optional<std::uint64_t> parse_bytes(std::string_view text) {
    text = trimmed(text);
    std::uint64_t value = 0;
    const auto [end, ec] = std::from_chars(text.data(), text.data() + text.size(), value);
    if (ec != std::errc{} || end != text.data() + text.size()) return std::nullopt;
    return value;
}

std::optional<ByteRange> parse_range(std::string_view offset, std::string_view length) {
    const auto o = parse_bytes(offset), l = parse_bytes(length);
    if (!o || !l || *o + *l < *o) return std::nullopt;
    return ByteRange{*o, *l};
}

CsvFile read_csv(const std::string& path, const std::string& what) {
    std::ifstream in(path);
    if (!in) throw Error(Trouble::input, fmt::format("{} {} cannot be opened.", what, path));
    return read_csv(in);
}

CsvFile read_csv(std::istream& in) {
    CsvFile out;
    std::string line;
    for (int number = 1; std::getline(in, line); ++number) {
        // Spreadsheets put a byte order mark before the first line.
        if (number == 1 && line.starts_with("\xEF\xBB\xBF")) line.erase(0, 3);
        if (!line.empty() && line.back() == '\r') line.pop_back();
        if (line.empty()) continue;
        if (out.header.empty()) {
            if (line.front() == '#') {
                out.comments.emplace_back(trimmed(std::string_view(line).substr(1)));
            } else {
                out.header = line;
            }
            continue;
        }
        CsvFile::Row row{number, line, {}};
        for (std::size_t at = 0;;) {
            const auto comma = line.find(',', at);
            row.fields.emplace_back(trimmed(std::string_view(line).substr(at, comma - at)));
            if (comma == std::string::npos) break;
            at = comma + 1;
        }
        out.rows.push_back(std::move(row));
    }
    return out;
}

void refuse_row(const std::string& path, const CsvFile::Row& row, const std::string& why) {
    throw Error(Trouble::input,
                fmt::format("{}, line {}: `{}` {}.", path, row.line, row.text.substr(0, 60), why));
}

}  // namespace undershelf
