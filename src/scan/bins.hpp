#pragma once
// Files in the bins of the usual systems, and where they were before somebody put them there.

#include <optional>

#include "shelf/writer.hpp"
#include "source/source.hpp"

namespace undershelf {

/// What a Windows bin keeps beside a file: `$I...` for `$R...`. Version 1 has a fixed field of 520 bytes for
/// the path, version 2 a length before it.
struct BinRecord {
    std::string first_path;  ///< from its drive's root, `/`-separated
    std::uint64_t size = 0;  ///< bytes
    MaybeTime deleted;       ///< UTC
};
std::optional<BinRecord> parse_bin_record(Bytes content);

/// What a freedesktop.org bin keeps: `info/NAME.trashinfo` for `files/NAME` (Trash specification 1.0).
struct TrashInfo {
    std::string first_path;
    MaybeTime deleted;  ///< local
};
std::optional<TrashInfo> parse_trash_info(std::string_view content);

/// Marks what stands in a bin, live or deleted, with its first path and time of deletion where these are
/// told.
void find_binned(const Source& source, ShelfWriter& shelf, const Progress& progress);

}  // namespace undershelf
