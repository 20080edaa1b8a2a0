#pragma once
// FAT volumes whose boot sector and its copy are gone, while their tables and folders are left: the distance
// of the two FATs is their size, what follows them is the root folder or the clusters, and the folders in the
// root say how large a cluster is.

#include <string>

#include "base/number_lines.hpp"
#include "fat/geometry.hpp"
#include "volume/file_system.hpp"

namespace undershelf::fat {

/// Does the sector begin as a FAT does: the media byte, then ones?
bool may_be_table(Bytes sector);

/// Where the volume starts whose first FAT is at `first` in the source, as far as it can be told.
std::uint64_t start_before(const Source& source, std::uint64_t first, Width width);

struct Headless {
    std::uint64_t offset = 0;  ///< of the volume in the source, as far as it can be told
    Geometry geometry;
    double support = 0;  ///< 0 to 1: share of what the root folder names that is where it should
};

/// The volume whose two FATs begin at `first` and `second` in the source; nothing when nothing in its root
/// folder bears it out.
std::optional<Headless> solve_tables(const Source& source, std::uint64_t first, std::uint64_t second);

/// A geometry as lines of numbers, for volumes without a head to read it from.
NumberLines pack_geometry(const Geometry& geometry);
std::optional<Geometry> unpack_geometry(const NumberLines& lines);

}  // namespace undershelf::fat
