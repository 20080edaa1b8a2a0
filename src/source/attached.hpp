#pragma once
// What drives are attached, and what is on them, as the system tells it: sysfs, udev's database, mounts and
// swaps. Nothing is read from a drive.

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "source/health.hpp"

namespace undershelf {

struct AttachedPartition {
    std::string name, path;              ///< `sdb1`, `/dev/sdb1`
    std::uint64_t offset = 0, size = 0;  ///< bytes
    std::string file_system, label;      ///< by udev, or by its mount; empty for unknown
    std::string partition_name;          ///< in a GPT
    std::vector<DriveHealth::Mount> mounts;
    bool swap = false;  ///< the system swaps to it
};

/// May this user read it?
enum class Readable : std::uint8_t { yes, no, no_device_file };

struct AttachedDrive {
    std::string path;        ///< `/dev/sdb`, whatever root the system is looked at below
    DriveHealth health;      ///< its name, model, serial number, kind, errors, mounts
    std::uint64_t size = 0;  ///< bytes
    std::uint32_t sector_size = 512;
    std::string bus;  ///< usb, ata, nvme, mmc, scsi, virtio, loop; empty for unknown
    bool removable = false, read_only = false;
    bool of_system = false;  ///< the running system is on it
    Readable readable = Readable::yes;
    std::string backing_file;        ///< of a loop device
    std::string file_system, label;  ///< of one without partitions
    bool swap = false;
    std::vector<AttachedPartition> partitions;  ///< in the order of the drive
};

/// All drives, in the order of their names; without loop devices, what memory is used as a drive, and what
/// other devices are put together to.
std::vector<AttachedDrive> attached_drives(const SystemPlaces& places = {});
/// The drive that the block device at `path` is, or is a partition of; nothing for anything else.
std::optional<AttachedDrive> attached_drive(const std::string& path, const SystemPlaces& places = {});

}  // namespace undershelf
