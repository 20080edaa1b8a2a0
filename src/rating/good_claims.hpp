#pragma once
// Who has bytes of a source with a good claim, so that nothing is looked for there.

#include <optional>
#include <vector>

#include "volume/model.hpp"

namespace undershelf {

/// Something with a name that has bytes of the source; a file system itself counts as live.
struct NamedContent {
    Origin origin = Origin::live;
    bool is_dir = false;
    Grade grade = Grade::none;
    std::uint64_t size = 0;
    /// What a check of it came to: up to where it holds, and whether it ends there.
    std::optional<std::uint64_t> holds_to = {};
    bool complete = false;
    bool contradicts = false;  ///< its first bytes contradict its name
    std::vector<Piece> pieces = {};
    std::vector<ByteRange> claims = {};
};

/// Appends the source ranges that are its own as far as is known: all that was allocated to it where it is
/// live, a folder, rated likely or better, or where nothing speaks against it; what a check says holds, where
/// it holds no further; nothing where its content is something else.
void append_good_claims(const NamedContent& content, std::vector<ByteRange>& out);

}  // namespace undershelf
