#pragma once
// What an entry is called in a bag.

#include <string>

#include "shelf/shelf.hpp"

namespace undershelf {

/// Where in the bag an entry is before its own path.
std::string top_folder(const ShelfEntry& entry, bool several_volumes);
/// Named streams are beside their file, a resource fork under the name that its file system's own tools use.
std::string file_name(const ShelfEntry& entry);

}  // namespace undershelf
