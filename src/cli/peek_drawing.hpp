#pragma once
// What `peek --draw` does: drawings of contents as PNG files.

#include "cli/command.hpp"
#include "source/source.hpp"

namespace undershelf::cli {

/// Into the file that `--draw` names. Returns the exit status.
int draw_one(const Shelf& shelf, const ShelfEntry& entry, const Source& source,
             const po::variables_map& given);
/// Each file of the selection into the folder that `--draw` names.
int draw_several(const Shelf& shelf, const po::variables_map& given);

}  // namespace undershelf::cli
