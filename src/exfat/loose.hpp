#pragma once
// Entry sets that fit no grid of clusters. What they say of files can be read where they are; where the
// clusters were that they name, nothing tells.

#include "base/number_lines.hpp"
#include "exfat/traces.hpp"
#include "volume/file_system.hpp"

namespace undershelf::exfat {

/// The stretches of `sets`, ascending, that are one after the other, as lines of Volume::geometry; those
/// beyond the first 65,536 are left out.
std::string pack_loose(const std::vector<SetTrace>& sets);
/// Empty where the lines tell of none.
std::vector<ByteRange> unpack_loose(const NumberLines& lines);

/// Reads such stretches as one volume, each as a folder of its own: sets do not say where they are.
std::unique_ptr<VolumeReader> open_loose(const Source& source, std::vector<ByteRange> stretches);

}  // namespace undershelf::exfat
