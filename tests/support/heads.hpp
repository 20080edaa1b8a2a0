#pragma once
// Heads of exFAT, NTFS and HFS+ volumes with the few structures after them that recognising looks at,
// written byte by byte after their specifications.

#include "base/bytes.hpp"

namespace undershelf::test {

/// 4 MiB, clusters of 4 KiB, label "CUES", serial 1A2B-3C4D.
ByteVector exfat_head();
/// 4 MiB with its copy, clusters of 4 KiB, label "CUES", serial 0123456789ABCDEF.
ByteVector ntfs_head();
/// 4 MiB with its alternate header, blocks of 4 KiB, name "CUES".
ByteVector hfsplus_head();

}  // namespace undershelf::test
