#pragma once
// What a scan goes by and how far it is, beside the volumes and entries that it found: the rows of
// `settings`.

#include <SQLiteCpp/Database.h>

#include <cstdint>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "base/byte_range.hpp"
#include "volume/settling.hpp"

namespace undershelf {

/// What is in the space that nobody with a good claim has, by looking at all or some of it.
struct SpaceLook {
    std::uint64_t bytes = 0;   ///< of that space, without holes and what cannot be read
    std::uint64_t looked = 0;  ///< of them
    std::uint64_t data = 0;    ///< of these, in sectors that are not of one byte throughout
    std::uint64_t starts = 0;  ///< places in what was looked at where a content begins
    std::uint64_t traces = 0;  ///< pieces of folders, tables or records in it
    /// Of these, what is where a volume is now.
    std::uint64_t data_in_volumes = 0, traces_in_volumes = 0;
    bool all() const { return looked == bytes; }
    bool operator==(const SpaceLook&) const = default;
};

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

    /// A partition without a volume, or a file system that is known by name alone.
    struct Place {
        ByteRange range;
        std::string what;
        /// Nothing in it can be read without its key.
        bool is_encrypted() const { return what.starts_with("encrypted"); }
        bool operator==(const Place&) const = default;
    };
    std::vector<Place> bare_partitions, unread_systems;
    bool takes_discards = false;  ///< the drive that is scanned does, by what the system says
    std::optional<SpaceLook> space;
    std::optional<double> content_seconds;  ///< what looking for contents would take, the sweep among it

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
