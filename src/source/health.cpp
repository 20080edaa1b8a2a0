#include "source/health.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>
#include <sys/stat.h>
#include <sys/sysmacros.h>

#include <filesystem>

#include "source/mounts.hpp"
#include "source/system_files.hpp"

namespace fs = std::filesystem;

namespace undershelf {

namespace {

std::optional<std::string> number_at(const std::string& path) {
    struct stat s {};
    if (::stat(path.c_str(), &s) != 0 || !S_ISBLK(s.st_mode)) return std::nullopt;
    return fmt::format("{}:{}", major(s.st_rdev), minor(s.st_rdev));
}

std::string serial_in(const fs::path& disk) {
    for (const auto* file : {"device/serial", "serial", "device/wwid", "wwid"}) {
        if (auto text = line_of(disk / file); !text.empty()) return text;
    }
    return {};
}

std::vector<std::string> mount_points(const std::vector<DriveHealth::Mount>& mounts,
                                      bool DriveHealth::Mount::*which) {
    std::vector<std::string> out;
    for (const auto& m : mounts) {
        if (m.*which) out.push_back(m.point);
    }
    return out;
}

}  // namespace

SystemPlaces SystemPlaces::under(const std::string& root) {
    SystemPlaces out;
    for (auto* place : {&out.sys, &out.mount_table, &out.etc, &out.udev, &out.swaps, &out.dev})
        *place = root + *place;
    return out;
}

std::optional<DriveHealth> drive_health(const std::string& path, const SystemPlaces& places) {
    const auto number = number_at(path);
    return number ? drive_health_of(*number, places) : std::nullopt;
}

std::optional<DriveHealth> drive_health_of(const std::string& number, const SystemPlaces& places) {
    const auto disk = disk_folder(number, places);
    if (!disk) return std::nullopt;
    DriveHealth out;
    out.disk = disk->filename().string();
    out.model = line_of(*disk / "device/model");
    out.serial = serial_in(*disk);
    if (const auto n = number_of(line_of(*disk / "queue/rotational"))) out.rotating = *n != 0;
    if (const auto n = number_of(line_of(*disk / "queue/discard_max_bytes"))) out.takes_discards = *n != 0;
    out.errors = number_of(line_of(*disk / "device/ioerr_cnt"));
    for (const auto& m : read_mounts(places.mount_table)) {
        if (disk_folder(m.device, places) == disk)
            out.mounts.push_back({m.point, !m.has_option("ro"), m.has_option("discard")});
    }
    std::error_code ec;
    for (const auto* file : {"systemd/system/timers.target.wants/fstrim.timer", "cron.weekly/fstrim"}) {
        // A link to a unit that is elsewhere counts as well.
        out.timer_discards |= fs::exists(fs::symlink_status(fs::path(places.etc) / file, ec));
    }
    return out;
}

std::vector<std::string> writable_mounts(const DriveHealth& h) {
    return mount_points(h.mounts, &DriveHealth::Mount::writable);
}

std::vector<std::string> in_words(const DriveHealth& h) {
    std::vector<std::string> out;
    if (h.errors && *h.errors)
        out.push_back(
            fmt::format("The system has met {} failed commands on {} since it was connected: copy it "
                        "before anything else.",
                        *h.errors, h.disk));
    if (const auto points = writable_mounts(h); !points.empty())
        out.push_back(
            fmt::format("It is mounted for writing at {}: unmount it now. Until then the system may write "
                        "over what is lost at any moment.",
                        fmt::join(points, ", ")));
    const auto kind = !h.rotating ? "a drive" : *h.rotating ? "a rotating disk" : "a solid-state drive";
    if (!h.takes_discards) return out;
    if (!*h.takes_discards) {
        out.push_back(
            fmt::format("{} is {} that takes no discards here: what was deleted stays until it is written "
                        "over.",
                        h.disk, kind));
        return out;
    }
    const auto discarding = mount_points(h.mounts, &DriveHealth::Mount::discards);
    std::string what;
    if (!discarding.empty())
        what = fmt::format(" Its mount at {} discards whatever is deleted at once: unmount it now.",
                           fmt::join(discarding, ", "));
    else if (h.timer_discards && !h.mounts.empty())
        what = " This system discards the free space of what is mounted once a week: unmount it now.";
    else
        what = " Whether the system it comes from did so is not known here.";
    out.push_back(
        fmt::format("{} is {} that takes discards: the contents of what was deleted may read as zeros, "
                    "while names are left.{}",
                    h.disk, kind, what));
    return out;
}

std::string drive_serial(const std::string& path, const SystemPlaces& places) {
    const auto number = number_at(path);
    const auto disk = number ? disk_folder(*number, places) : std::nullopt;
    return disk ? serial_in(*disk) : std::string();
}

}  // namespace undershelf
