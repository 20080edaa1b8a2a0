#pragma once
// Nothing may be written onto the source.

#include <string>

namespace undershelf {

/// Throws Error(refused) when writing to `destination` (a file or folder that need not exist yet) could
/// change the source: the source itself by any name, or a place inside a file system that is mounted from it
/// or from one of its partitions. `mount_table` has the form of /proc/self/mountinfo.
void refuse_destination_on_source(const std::string& source, const std::string& destination,
                                  const std::string& mount_table = "/proc/self/mountinfo");

}  // namespace undershelf
