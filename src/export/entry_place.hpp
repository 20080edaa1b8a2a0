#pragma once
// What an entry is called in a bag, and what is noted of it.

#include <string>

#include "export/exported_entry.hpp"
#include "shelf/shelf.hpp"

namespace undershelf {

/// Where in the bag an entry is before its own path.
std::string top_folder(const ShelfEntry& entry, bool several_volumes);
/// The folder of an entry's kind, or of the month of its last change (`2025-04`, `undated`).
std::string kind_folder(const ShelfEntry& entry);
std::string month_folder(const ShelfEntry& entry);
/// Named streams are beside their file, a resource fork under the name that its file system's own tools use.
/// `newer_than_bag`: the bag has it as it was laid out before; the new one gets its revision, `NAME~r2.EXT`.
std::string file_name(const ShelfEntry& entry, bool newer_than_bag = false);
/// What exported.jsonl says of an entry before anything is written of it.
ExportedEntry line_of(const ShelfEntry& entry);

}  // namespace undershelf
