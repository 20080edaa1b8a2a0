#include "source/unreadable_list.hpp"

#include <fmt/format.h>

#include <charconv>
#include <fstream>

#include "base/error.hpp"

namespace undershelf {

namespace {
std::optional<std::uint64_t> parse_bytes(std::string_view text) {
    const auto from = text.find_first_not_of(" \t");
    if (from == std::string_view::npos) return std::nullopt;
    text = text.substr(from, text.find_last_not_of(" \t\r") + 1 - from);
    std::uint64_t value = 0;
    const auto [end, ec] = std::from_chars(text.data(), text.data() + text.size(), value);
    if (ec != std::errc{} || end != text.data() + text.size()) return std::nullopt;
    return value;
}
}  // namespace

RangeSet read_unreadable_list(const std::string& path) {
    std::ifstream in(path);
    if (!in)
        throw Error(Trouble::input, fmt::format("The list of unreadable ranges {} cannot be opened.", path));
    std::vector<ByteRange> ranges;
    std::string line;
    for (int number = 1; std::getline(in, line); ++number) {
        if (!line.empty() && line.back() == '\r') line.pop_back();
        if (number == 1) {
            if (line != "offset,length") {
                throw Error(
                    Trouble::input,
                    fmt::format(
                        "{} is not a list of unreadable ranges: its first line must be `offset,length`.",
                        path));
            }
            continue;
        }
        if (line.empty()) continue;
        const auto comma = line.find(',');
        const auto offset = parse_bytes(std::string_view(line).substr(0, comma));
        const auto length =
            comma == std::string::npos ? std::nullopt : parse_bytes(std::string_view(line).substr(comma + 1));
        if (!offset || !length || *offset + *length < *offset) {
            throw Error(Trouble::input,
                        fmt::format("{}, line {}: `{}` is not an offset and a length in bytes.", path, number,
                                    line.substr(0, 60)));
        }
        ranges.push_back({*offset, *length});
    }
    return RangeSet(std::move(ranges));
}

}  // namespace undershelf
