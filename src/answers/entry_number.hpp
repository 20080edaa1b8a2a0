#pragma once
// An entry named by its number on the command line.

#include <string>

#include "shelf/shelf.hpp"

namespace undershelf {

/// Throws Error(usage) when `id` is no number or the shelf has no such entry.
ShelfEntry entry_from(const Shelf& shelf, const std::string& id);

}  // namespace undershelf
