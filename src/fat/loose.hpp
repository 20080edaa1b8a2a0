#pragma once
// FAT folders that fit no grid of clusters: a few that a later format left, each by itself. Their names,
// sizes and dates can be read where they are; where the clusters were that they name, nothing tells.

#include "base/number_lines.hpp"
#include "fat/former.hpp"

namespace undershelf::fat {

/// As lines of Volume::geometry; folders beyond the first 65,536 are left out.
std::string pack_loose(const std::vector<FolderHead>& folders);
/// Empty where the lines tell of none.
std::vector<FolderHead> unpack_loose(const NumberLines& lines);

/// Those of `folders` that name anything.
std::vector<FolderHead> that_name_something(const Source& source, const std::vector<FolderHead>& folders);

/// Reads such folders as one volume: in one another where a slot has another one's number and date.
std::unique_ptr<VolumeReader> open_loose(const Source& source, std::vector<FolderHead> folders,
                                         const ReadOptions& options);

}  // namespace undershelf::fat
