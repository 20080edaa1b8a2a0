#pragma once
// bag-info.txt (RFC 8493, section 2.2.2): what an export says of its bag, and of each round that went into
// it.

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "writing/folder.hpp"

namespace undershelf {

/// One export into the bag, finished.
struct BagRound {
    unsigned number = 1;
    std::string ended;  ///< ISO 8601, UTC; of earlier versions the day alone
    std::uint64_t files = 0, bytes = 0;
    std::string job;  ///< describe_job()
};

/// What is added up over all rounds.
struct PayloadOxum {
    std::uint64_t bytes = 0, files = 0;
};

/// `BYTES.FILES`; nothing for anything else.
std::optional<PayloadOxum> payload_oxum_in(const std::string& text);

struct BagInfo {
    std::string shelf;  ///< Shelf::identity() of the shelf it is from; empty in bags of earlier versions
    std::vector<BagRound> rounds;
    std::vector<std::string> others;  ///< lines that somebody else has put there, as they are
    bool ours() const { return !rounds.empty(); }
};

/// Of a file of that name below `bag`; of one that is not there nothing.
BagInfo read_bag_info(const Folder& bag, const std::string& path);
/// The whole file. `description`: where it has none yet.
std::string bag_info_text(const BagInfo& info, const PayloadOxum& oxum, const std::string& description);

}  // namespace undershelf
