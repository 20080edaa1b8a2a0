#pragma once
// Symbolic links and junctions: as reparse points, and as small files of a mark and the target.

#include <optional>
#include <string>

#include "base/bytes.hpp"

namespace undershelf::ntfs {

/// What a reparse point says.
struct ReparsePoint {
    std::string kind;                   ///< in words that go after "It is "
    std::optional<std::string> target;  ///< of a link, UTF-8 as recorded; empty where it cannot be read
};

/// The longest value there may be ([MS-FSCC] section 2.1.2).
constexpr std::uint64_t most_reparse_bytes = 16 << 10;

/// Takes the value of $REPARSE_POINT apart ([MS-FSCC] section 2.1.2); lengths that lie make no target.
ReparsePoint parse_reparse_point(Bytes value);

/// The target of a symbolic link that a driver without reparse points keeps as a system file: the mark
/// `IntxLNK`, the byte 1, and the target in UTF-16. Nothing for other contents.
std::optional<std::string> stored_link(Bytes content);
/// Its mark and the longest target, bytes.
constexpr std::uint64_t most_stored_link_bytes = 8 + 2 * 4096;

}  // namespace undershelf::ntfs
