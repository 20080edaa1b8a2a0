#pragma once
// What the small CSV files about sources share: comments, a header, and numbers of bytes between commas.

#include <cstdint>
#include <iosfwd>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "base/byte_range.hpp"

namespace undershelf {

/// Whole bytes, blanks around them allowed.
std::optional<std::uint64_t> parse_bytes(std::string_view text);
/// Offset and length in bytes whose end can be told; nothing otherwise.
std::optional<ByteRange> parse_range(std::string_view offset, std::string_view length);

struct CsvFile {
    std::vector<std::string> comments;  ///< lines that begin with #, without it and the blank after it
    std::string header;
    struct Row {
        int line = 0;
        std::string text;
        std::vector<std::string> fields;  ///< blanks around them taken off
    };
    std::vector<Row> rows;
};

CsvFile read_csv(std::istream& in);
/// Reads a file; `what` says what it is meant to be, for the sentence when it cannot be opened. Throws
/// Error(input).
CsvFile read_csv(const std::string& path, const std::string& what);
[[noreturn]] void refuse_row(const std::string& path, const CsvFile::Row& row, const std::string& why);

}  // namespace undershelf
