#pragma once
// Reading all of a volume that a test wrote byte by byte.

#include <string>

#include "support/collector.hpp"

namespace undershelf::test {

/// Everything that the reader of the volume at the start of `bytes` hands over; nothing when there is no
/// volume.
Collector read_volume(const FileSystem& fs, const ByteVector& bytes, RangeSet bad = {});
/// Up to 1 MiB of an entry's content.
std::string content_of(const ByteVector& bytes, const Entry& entry);

}  // namespace undershelf::test
