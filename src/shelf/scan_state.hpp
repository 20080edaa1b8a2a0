#pragma once
// What a scan goes by and how far it is, beside the volumes and entries that it found: the rows of
// `settings`.

#include <SQLiteCpp/Database.h>

#include <cstdint>
#include <map>
#include <string>
#include <vector>

#include "base/byte_range.hpp"
#include "volume/settling.hpp"

namespace undershelf {

struct ScanState {
    /// What decides what is found, in words; a shelf is gone on with under the same settings alone.
    std::string settings;
    /// The version of the program's shelves that this one had before it was brought up, until a scan has
    /// rated it again; 0 for none.
    int brought_up_from = 0;

    /// Volumes that a technician knows better than any vote, and former ones that are none.
    struct Identity {
        std::string family;
        std::uint64_t grid_start = 0;
        std::uint32_t cluster_size = 0;
        bool operator==(const Identity&) const = default;
    };
    std::vector<VolumeHint> told;
    std::vector<Identity> left_out;

    RangeSet gained;  ///< what was copied into an image since, while that is taken in
    /// By volume: a print of the lost folders that were found when it was read last.
    std::map<int, std::string> lost_folders;
    /// By volume, where most of its lost contents read as zeros: how many of how many.
    struct Discards {
        std::uint64_t zeros = 0, files = 0;
    };
    std::map<int, Discards> discards;

    std::uint64_t starts_to = 0;  ///< where the sweep came to that looked for starts of contents
    std::string contents;         ///< words of the formats that were looked for
    /// The search for contents without names: all that decides what it finds, and the place it came to.
    std::string unnamed_basis;
    std::uint64_t unnamed_reached = 0;
};

/// Lines that say nothing are left out.
ScanState read_scan_state(SQLite::Database& db);
void write_scan_state(SQLite::Database& db, const ScanState& state);

}  // namespace undershelf
