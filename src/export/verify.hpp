#pragma once
// Checking an export against its manifests.

#include <optional>
#include <string>
#include <vector>

#include "base/progress.hpp"

namespace undershelf {

struct Verification {
    std::uint64_t files = 0;       ///< of the payload, that manifests name
    std::uint64_t as_written = 0;  ///< of them, with all their right checksums
    std::uint64_t bytes = 0;       ///< hashed
    /// Of the payload and the tag files alike.
    std::uint64_t changed = 0, missing = 0, extra = 0, unreadable = 0;
    /// A round that is not finished: its command, and sentences on its files. They are none of the
    /// differences.
    std::optional<std::vector<std::string>> unfinished_command;
    std::vector<std::string> unfinished;
    bool any_finished = true;  ///< round
    std::vector<std::string>
        differences;  ///< sentences, on all of these and on what else is wrong with the bag
    bool interrupted = false;
};

/// Checks a BagIt bag (RFC 8493, section 3): bagit.txt, every manifest and tag manifest that is there,
/// Payload-Oxum, that every file is a regular one with its checksums, and that no other is in `data`; of an
/// export also that `exported.jsonl` says the same. Nothing is opened through a link, and nothing that could
/// wait or never end. Of an export that was interrupted, the finished rounds are checked; what is of the
/// other is named. Throws Error(input) when the folder is no bag.
Verification verify_bag(const std::string& folder, Progress& progress);

}  // namespace undershelf
