#pragma once
// Which folders are the bins of the usual systems, by their names alone.

#include <optional>
#include <string>
#include <string_view>

namespace undershelf {

/// Where in a bin something is.
struct BinPlace {
    enum class System { windows, old_windows, freedesktop, macos } system{};
    std::string folder;  ///< path of the folder that holds what was thrown away
    std::string inside;  ///< path below it; empty for that folder itself
};

/// The bin that a path is in, or is a folder of: `$RECYCLE.BIN` and, before Vista, `RECYCLER` and `RECYCLED`,
/// with and without a folder for each user (`S-1-...`); `.Trash-UID` and `.Trash/UID` with `files` and
/// `expunged` (Trash specification 1.0); `.Trashes/UID`. A lost first letter, written `_`, may be theirs.
std::optional<BinPlace> bin_place_of(std::string_view path);

/// Is the folder one of a bin's own: the bin, a user's part of it, where its records are?
bool is_bins_own_folder(std::string_view path);

}  // namespace undershelf
