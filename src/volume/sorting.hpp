#pragma once
// How lists sort an entry: by its extension and its kind.

#include <string>

#include "content/formats.hpp"
#include "volume/model.hpp"

namespace undershelf {

struct Sorting {
    std::string ext;  ///< lower case, no dot; empty for folders and links
    Kind kind = Kind::other;
};

/// Of a file with this name; `shown`: the format that its content shows, null for none.
Sorting sorting_of(std::string_view name, const Format* shown = nullptr);
/// Of a folder it is nothing; a link's name tells of what it leads to, not of what it holds.
Sorting sorting_of(const Entry& entry, const Format* shown = nullptr);

}  // namespace undershelf
