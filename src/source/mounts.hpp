#pragma once
// The table of mounted file systems, in the form of /proc/self/mountinfo.

#include <string>
#include <vector>

namespace undershelf {

struct MountLine {
    std::string device;   ///< numbers, `8:1`
    std::string point;    ///< where it is mounted
    std::string options;  ///< of the mount and of its file system, separated by commas
    std::string from;     ///< the device's path, or an image file's
    std::string type;     ///< of its file system

    bool has_option(const std::string& option) const;
    /// The value of `name=value`; empty where it is not there.
    std::string option(const std::string& name) const;
};

/// In the order of the table; empty when it cannot be read.
std::vector<MountLine> read_mounts(const std::string& mount_table);

}  // namespace undershelf
