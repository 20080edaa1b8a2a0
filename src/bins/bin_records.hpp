#pragma once
// What the bins of the usual systems keep about the things in them: where these were, and since when they are
// there. Everything is input from a source: whatever makes no sense yields nothing.

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "base/bytes.hpp"
#include "base/timestamp.hpp"

namespace undershelf {

/// What is known of one thing in a bin.
struct BinRecord {
    std::string name;                   ///< in the bin; empty where the name of the record's file tells it
    std::string first_path;             ///< from its volume's root, `/`-separated
    std::optional<std::uint64_t> size;  ///< bytes
    MaybeTime deleted;
};

/// `$I...` for `$R...`, from Windows Vista on. Version 1 has a fixed field of 520 bytes for the path,
/// version 2 a length before it. Times are UTC.
std::optional<BinRecord> parse_windows_record(Bytes content);

/// `INFO2`, the index of a bin before Vista: a header of 20 bytes with the length of a record at 12, then
/// records of 280 bytes (path in the ANSI code page, read as Windows-1252) or 800 (in UTF-16 after that).
/// What was taken out again has the first byte of its path cleared. Names are made of drive letter, number
/// and the extension of before: `Dc3.txt`. Times are UTC.
std::vector<BinRecord> parse_info2(Bytes content);

/// `info/NAME.trashinfo` for `files/NAME` (Trash specification 1.0). Times are local.
std::optional<BinRecord> parse_trash_info(std::string_view content);

}  // namespace undershelf
