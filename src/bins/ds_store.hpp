#pragma once
// .DS_Store: what the macOS Finder keeps about a folder. In a bin it says where things are to be put back to.

#include <vector>

#include "bins/bin_records.hpp"

namespace undershelf {

/// The places to put back to (records `ptbL`, the folder, and `ptbN`, the name), by name in the bin. The file
/// is an allocator of blocks, sizes of powers of two, and a B-tree in them; all numbers are big-endian. As
/// much as holds is read, and no more bytes than the file has.
std::vector<BinRecord> parse_ds_store(Bytes content);

}  // namespace undershelf
