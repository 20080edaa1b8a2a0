#pragma once
// Checking an export against its manifest.

#include <string>
#include <vector>

#include "base/progress.hpp"

namespace undershelf {

struct Verification {
    std::uint64_t files = 0;               ///< in the manifest
    std::uint64_t sound = 0;               ///< of them, with the right checksum
    std::uint64_t bytes = 0;               ///< hashed
    std::vector<std::string> differences;  ///< sentences
    bool interrupted = false;
};

/// Checks a BagIt bag (RFC 8493, section 3): every file of the manifests is there with its checksum, and no
/// other file is in `data`. Throws Error(input) when the folder is no bag.
Verification verify_bag(const std::string& folder, Progress& progress);

}  // namespace undershelf
