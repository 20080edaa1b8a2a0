#include "source/destination_guard.hpp"

#include <fmt/format.h>
#include <sys/stat.h>
#include <sys/sysmacros.h>

#include <filesystem>
#include <fstream>
#include <optional>

#include "base/error.hpp"
#include "source/mounts.hpp"

namespace fs = std::filesystem;

namespace undershelf {

namespace {

std::optional<struct stat> status_of(const fs::path& path) {
    struct stat s {};
    if (::stat(path.c_str(), &s) != 0) return std::nullopt;
    return s;
}

fs::path nearest_existing(fs::path path) {
    path = fs::absolute(path).lexically_normal();
    std::error_code ec;
    while (!fs::exists(path, ec) && path != path.root_path()) path = path.parent_path();
    return path;
}

std::string number_text(dev_t device) {
    return fmt::format("{}:{}", major(device), minor(device));
}

bool same_file(const struct stat& a, const struct stat& b) {
    if (S_ISBLK(a.st_mode) && S_ISBLK(b.st_mode)) return a.st_rdev == b.st_rdev;
    return a.st_dev == b.st_dev && a.st_ino == b.st_ino;
}

/// True when the block device `device` is the source, one of its partitions, or a loop device over it, by
/// what the kernel says.
bool stands_on(const std::string& device, const struct stat& source) {
    const fs::path node = fs::path("/sys/dev/block") / device;
    if (S_ISBLK(source.st_mode)) {
        if (device == number_text(source.st_rdev)) return true;
        // The node of a partition lies below the node of its disk.
        std::string above;
        std::ifstream in(node / ".." / "dev");
        if (std::getline(in, above) && above == number_text(source.st_rdev)) return true;
    }
    for (const auto& loop : {node / "loop" / "backing_file", node / ".." / "loop" / "backing_file"}) {
        std::ifstream in(loop);
        std::string path;
        if (!std::getline(in, path)) continue;
        const auto backing = status_of(path);
        if (backing && same_file(*backing, source)) return true;
    }
    return false;
}

/// The mounted file system that holds `path`: the mount point that is the longest start of it, the last such
/// line.
std::optional<MountLine> mount_of(const fs::path& path, const std::string& mount_table) {
    std::optional<MountLine> best;
    const auto text = path.string();
    for (auto& m : read_mounts(mount_table)) {
        const bool holds = m.point == "/" || text == m.point || text.starts_with(m.point + "/");
        if (holds && (!best || m.point.size() >= best->point.size())) best = std::move(m);
    }
    return best;
}

}  // namespace

void refuse_destination_on_source(const std::string& source, const std::string& destination,
                                  const std::string& mount_table) {
    const auto source_status = status_of(source);
    if (!source_status) return;
    const auto there = nearest_existing(destination);
    const auto status = status_of(there);
    if (!status) return;
    if (same_file(*status, *source_status)) {
        throw Error(Trouble::refused,
                    fmt::format("{} is the source itself; nothing is ever written there. Give another place.",
                                destination));
    }
    std::error_code ec;
    const auto mount = mount_of(fs::canonical(there, ec), mount_table);
    const auto from = mount ? status_of(mount->from) : std::nullopt;
    if ((mount && stands_on(mount->device, *source_status)) || (from && same_file(*from, *source_status)) ||
        stands_on(number_text(status->st_dev), *source_status)) {
        throw Error(Trouble::refused,
                    fmt::format("{} lies on a file system that is mounted from the source {}{}; writing "
                                "there would change it. Give a place on another drive.",
                                destination, source, mount ? " at " + mount->point : ""));
    }
}

}  // namespace undershelf
