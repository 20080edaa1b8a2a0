#pragma once
// Which bytes of which files and block devices a path finally means: through links, partitions, loop devices,
// what device-mapper puts together, bind mounts, and FUSE file systems that tell what they are made from.

#include <sys/types.h>

#include <filesystem>
#include <string>
#include <vector>

#include "base/byte_range.hpp"
#include "source/health.hpp"

namespace undershelf {

/// A stretch of a file, or of a block device, by the numbers that the kernel knows it by.
struct Storage {
    bool is_device = false;
    dev_t device = 0;  ///< of a block device its own number, else that of the file system the file is on
    ino_t file = 0;    ///< inode; 0 for a block device
    ByteRange bytes;   ///< of it
};

/// The bytes that reading `path` gives.
struct StorageRead {
    /// Of the file or device itself and of what it is made from; not what a file system has beside its file.
    std::vector<Storage> content;
    /// Of what a FUSE file system makes its files from, the one at `path` among them.
    std::vector<Storage> perhaps;
};
StorageRead storage_read(const std::string& path, const SystemPlaces& places = {});

/// The bytes that may change when something is written at `path`, which need not be there yet: those of the
/// file or device itself, and everything of the file systems and devices below it.
struct StorageWritten {
    std::vector<Storage> itself;  ///< empty while it is not there
    std::vector<Storage> below;
};
StorageWritten storage_written(const std::string& path, const SystemPlaces& places = {});

/// Have they a byte in common?
bool meet(const std::vector<Storage>& a, const std::vector<Storage>& b);

/// The part of a path that is there already.
std::filesystem::path nearest_existing(std::filesystem::path path);

/// Where `path` leads to, links followed, also where nothing is there yet.
std::string target_of(const std::string& path);

}  // namespace undershelf
