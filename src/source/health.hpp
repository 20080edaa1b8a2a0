#pragma once
// What the system knows of a drive, without asking the drive itself.

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

namespace undershelf {

/// Where the system says it; other places for tests.
struct SystemPlaces {
    std::string sys = "/sys";
    std::string mount_table = "/proc/self/mountinfo";
    std::string etc = "/etc";
    std::string udev = "/run/udev/data";
    std::string swaps = "/proc/swaps";
    std::string dev = "/dev";

    /// The same places below another root.
    static SystemPlaces under(const std::string& root);
};

struct DriveHealth {
    std::string disk;  ///< the kernel's name of the whole disk: `sda`
    std::string model, serial;
    std::optional<bool> rotating;         ///< queue/rotational
    std::optional<bool> takes_discards;   ///< queue/discard_max_bytes
    std::optional<std::uint64_t> errors;  ///< device/ioerr_cnt: commands that failed since it was connected
    struct Mount {
        std::string point;
        bool writable = true;
        bool discards = false;  ///< what is deleted is discarded at once
    };
    std::vector<Mount> mounts;    ///< of it and of its partitions
    bool timer_discards = false;  ///< the system discards free space of all mounts now and then
};

/// Of the block device at `path`, or of the disk it is a partition of; nothing for files.
std::optional<DriveHealth> drive_health(const std::string& path, const SystemPlaces& places = {});
/// The same by its device number, `8:16`; nothing where the system does not know it.
std::optional<DriveHealth> drive_health_of(const std::string& number, const SystemPlaces& places);
/// Where it is mounted for writing.
std::vector<std::string> writable_mounts(const DriveHealth& health);
/// Sentences on it, each with what follows.
std::vector<std::string> in_words(const DriveHealth& health);

/// The serial number of the drive at `path`; empty where it has none, and for files.
std::string drive_serial(const std::string& path, const SystemPlaces& places = {});

}  // namespace undershelf
