#pragma once
// What a bag says of itself, for those who get it.

#include <array>
#include <string>
#include <vector>

#include "base/progress.hpp"
#include "export/bag_info.hpp"
#include "export/verify.hpp"
#include "shelf/shelf.hpp"

namespace undershelf {

struct HandedOver {
    std::string folder;
    std::string drive;  ///< the file system that it is on: its label or device; empty for unknown
    std::vector<BagRound> rounds;
    Verification verification;
    std::uint64_t complete = 0, partial = 0, left_out = 0, failed = 0;  ///< files
    std::uint64_t bytes = 0;                                            ///< of files that were written
    std::array<std::uint64_t, 6> by_grade{};                            ///< of these
    std::vector<std::pair<std::string, std::uint64_t>>
        why_left_out;          ///< with how many, the most frequent first
    std::string manifest_sum;  ///< SHA-256 of manifest-sha256.txt, which stands for all others
    bool ends_well() const {
        return !verification.unfinished_command && verification.differences.empty() &&
               !verification.interrupted;
    }
};

/// Reads and verifies a bag. Throws Error(refused) for one of another shelf, and Error(input) for a folder
/// that is not a bag.
HandedOver read_handed_over(const Shelf& shelf, const std::string& folder, Progress& progress);

}  // namespace undershelf
