#pragma once
// How fuzzing input becomes a volume: a few changed bytes in sectors where the sound volume has structures or
// contents. Inputs stay small, and nearly every change meets code that looks at it.

#include <memory>
#include <vector>

#include "volume/file_system.hpp"

namespace undershelf::fuzz {

/// A sound volume, with the sectors that hold anything.
struct Seed {
    ByteVector bytes;
    std::vector<std::uint64_t> sectors;  ///< numbers, ascending
};
std::vector<Seed> seeds_of(std::vector<ByteVector> volumes);

/// The volume that `input` describes: the first byte chooses the seed, then changes follow: two bytes choose
/// a sector, two an offset in it, one the number of bytes (1 to 16), which come next.
std::unique_ptr<Source> patched(const std::vector<Seed>& seeds, Bytes input);

/// Reads a volume and looks at everything it hands over; traps as read_all() does.
void read_volume(const FileSystem& fs, const Source& source, const Volume& volume, const TraceStore& traces);
/// Recognises, reads and looks at everything a volume hands over. Traps when what it hands over breaks a
/// promise of the model.
void read_all(const FileSystem& fs, const Source& source);

}  // namespace undershelf::fuzz
