#include "source/attached.hpp"

#include <fmt/format.h>
#include <sys/stat.h>
#include <sys/sysmacros.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <filesystem>
#include <fstream>
#include <map>

#include "source/mounts.hpp"
#include "source/system_files.hpp"

namespace fs = std::filesystem;

namespace undershelf {

namespace {

constexpr std::uint64_t sysfs_sector = 512;  ///< sizes and starts are in these, whatever the drive's own are
/// A system that has more is made up.
constexpr std::size_t most_drives = 1024, most_partitions = 1024;
constexpr std::size_t longest_udev_line = 4096;

using Properties = std::map<std::string, std::string>;

/// `\x20` and the like, as udev keeps names.
std::string decoded(const std::string& text) {
    std::string out;
    for (std::size_t i = 0; i < text.size(); ++i) {
        const bool coded = text[i] == '\\' && i + 3 < text.size() && text[i + 1] == 'x';
        const auto value = coded ? number_of("0x" + text.substr(i + 2, 2)) : std::nullopt;
        if (value) {
            out += static_cast<char>(*value);
            i += 3;
        } else {
            out += text[i];
        }
    }
    return out;
}

/// What udev keeps of a device: lines `E:NAME=VALUE`.
Properties udev_properties(const SystemPlaces& places, const std::string& number) {
    Properties out;
    std::ifstream in(fs::path(places.udev) / ("b" + number));
    for (std::string line; std::getline(in, line);) {
        const auto equals = line.find('=');
        if (!line.starts_with("E:") || equals == line.npos || line.size() > longest_udev_line) continue;
        out[line.substr(2, equals - 2)] = line.substr(equals + 1);
    }
    return out;
}

std::string property(const Properties& all, const char* name) {
    const auto it = all.find(name);
    return it == all.end() ? std::string() : it->second;
}

/// The encoded form keeps what the other has lost.
std::string label_in(const Properties& all) {
    const auto encoded = property(all, "ID_FS_LABEL_ENC");
    return encoded.empty() ? property(all, "ID_FS_LABEL") : decoded(encoded);
}

std::string trimmed(const std::string& text) {
    const auto from = text.find_first_not_of(' ');
    return from == text.npos ? "" : text.substr(from, text.find_last_not_of(' ') + 1 - from);
}

/// By the folders that a device's own is in.
std::string bus_of(const fs::path& device, const std::string& by_udev) {
    const auto path = device.string();
    for (const auto& [part, bus] : {std::pair{"/usb", "usb"},
                                    {"/nvme", "nvme"},
                                    {"/mmc_host/", "mmc"},
                                    {"/virtio", "virtio"},
                                    {"/ata", "ata"},
                                    {"/loop", "loop"}}) {
        if (path.find(part) != path.npos) return bus;
    }
    if (!by_udev.empty()) return by_udev;
    return path.find("/host") != path.npos ? "scsi" : "";
}

Readable readable(const std::string& path) {
    if (::access(path.c_str(), R_OK) == 0) return Readable::yes;
    return errno == EACCES || errno == EPERM ? Readable::no : Readable::no_device_file;
}

/// What the system has mounted and swaps to, read once.
class InUse {
  public:
    explicit InUse(const SystemPlaces& places) : mounts_(read_mounts(places.mount_table)) {
        std::ifstream in(places.swaps);
        std::string line;
        std::getline(in, line);  // its heading
        while (std::getline(in, line)) swaps_.push_back(line.substr(0, line.find_first_of(" \t")));
    }
    std::vector<MountLine> of(const std::string& number) const {
        std::vector<MountLine> out;
        std::copy_if(mounts_.begin(), mounts_.end(), std::back_inserter(out),
                     [&](const MountLine& m) { return m.device == number; });
        return out;
    }
    bool swaps_to(const std::string& path) const {
        return std::find(swaps_.begin(), swaps_.end(), path) != swaps_.end();
    }

  private:
    std::vector<MountLine> mounts_;
    std::vector<std::string> swaps_;
};

bool is_of_system(const std::string& mount_point) {
    return mount_point == "/" || mount_point == "/boot" || mount_point == "/boot/efi" ||
           mount_point == "/usr" || mount_point == "/home" || mount_point == "/var";
}

class Reader {
  public:
    explicit Reader(const SystemPlaces& places) : places_(places), in_use_(places) {}

    std::optional<AttachedDrive> drive(const fs::path& device) const {
        const auto number = line_of(device / "dev");
        auto health = drive_health_of(number, places_);
        if (!health) return std::nullopt;
        AttachedDrive out;
        out.health = std::move(*health);
        const auto udev = udev_properties(places_, number);
        if (out.health.model.empty()) out.health.model = trimmed(decoded(property(udev, "ID_MODEL_ENC")));
        if (out.health.serial.empty()) out.health.serial = property(udev, "ID_SERIAL_SHORT");
        out.path = device_path(device);
        out.size = number_of(line_of(device / "size")).value_or(0) * sysfs_sector;
        out.sector_size = static_cast<std::uint32_t>(
            number_of(line_of(device / "queue/logical_block_size")).value_or(sysfs_sector));
        out.bus = bus_of(device, property(udev, "ID_BUS"));
        out.removable = line_of(device / "removable") == "1";
        out.read_only = line_of(device / "ro") == "1";
        out.readable = readable(places_.dev + out.path.substr(std::string_view("/dev").size()));
        out.backing_file = line_of(device / "loop/backing_file");
        add_partitions(device, out);
        if (out.partitions.empty()) {
            out.file_system = file_system(number, udev);
            out.label = label_in(udev);
        }
        out.swap = in_use_.swaps_to(out.path);
        out.of_system = out.swap;
        for (const auto& m : out.health.mounts) out.of_system |= is_of_system(m.point);
        for (const auto& p : out.partitions) out.of_system |= p.swap;
        return out;
    }

  private:
    std::string device_path(const fs::path& device) const {
        auto name = device.filename().string();
        std::replace(name.begin(), name.end(), '!', '/');  // as sysfs writes it
        return "/dev/" + name;
    }

    std::string file_system(const std::string& number, const Properties& udev) const {
        if (const auto said = property(udev, "ID_FS_TYPE"); !said.empty()) return said;
        const auto mounts = in_use_.of(number);
        return mounts.empty() ? std::string() : mounts.front().type;
    }

    void add_partitions(const fs::path& device, AttachedDrive& drive) const {
        std::error_code ec;
        for (fs::directory_iterator it(device, ec), end; !ec && it != end; it.increment(ec)) {
            if (!fs::exists(it->path() / "partition", ec) || drive.partitions.size() == most_partitions)
                continue;
            AttachedPartition p;
            p.name = it->path().filename().string();
            p.path = device_path(it->path());
            p.offset = number_of(line_of(it->path() / "start")).value_or(0) * sysfs_sector;
            p.size = number_of(line_of(it->path() / "size")).value_or(0) * sysfs_sector;
            const auto number = line_of(it->path() / "dev");
            const auto udev = udev_properties(places_, number);
            p.file_system = file_system(number, udev);
            p.label = label_in(udev);
            p.partition_name = decoded(property(udev, "ID_PART_ENTRY_NAME"));
            for (const auto& m : in_use_.of(number))
                p.mounts.push_back({m.point, !m.has_option("ro"), m.has_option("discard")});
            p.swap = in_use_.swaps_to(p.path);
            drive.partitions.push_back(std::move(p));
        }
        std::sort(drive.partitions.begin(), drive.partitions.end(), [](const auto& a, const auto& b) {
            return std::pair(a.offset, a.name) < std::pair(b.offset, b.name);
        });
    }

    const SystemPlaces& places_;
    const InUse in_use_;
};

/// What is no drive of its own.
bool is_put_together(const std::string& name) {
    for (const auto* start : {"loop", "ram", "zram", "dm-", "md", "nbd", "fd"}) {
        if (name.starts_with(start)) return true;
    }
    return false;
}

}  // namespace

std::vector<AttachedDrive> attached_drives(const SystemPlaces& places) {
    std::vector<AttachedDrive> out;
    const Reader reader(places);
    std::error_code ec;
    for (fs::directory_iterator it(fs::path(places.sys) / "block", ec), end; !ec && it != end;
         it.increment(ec)) {
        if (is_put_together(it->path().filename().string()) || out.size() == most_drives) continue;
        std::error_code gone;
        const auto device = fs::canonical(it->path(), gone);
        auto drive = gone ? std::nullopt : reader.drive(device);
        if (drive && drive->size > 0) out.push_back(std::move(*drive));
    }
    std::sort(out.begin(), out.end(),
              [](const AttachedDrive& a, const AttachedDrive& b) { return a.health.disk < b.health.disk; });
    return out;
}

std::optional<AttachedDrive> attached_drive(const std::string& path, const SystemPlaces& places) {
    struct stat s {};
    if (::stat(path.c_str(), &s) != 0 || !S_ISBLK(s.st_mode)) return std::nullopt;
    const auto device = disk_folder(fmt::format("{}:{}", major(s.st_rdev), minor(s.st_rdev)), places);
    return device ? Reader(places).drive(*device) : std::nullopt;
}

}  // namespace undershelf
